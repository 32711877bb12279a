"""What is believed of the invented district, held against what its simulator knows and nobody wrote down."""

import numpy as np
import pytest
from django.core.management import call_command
from django.utils import timezone

from aquifer.core.kinds import KINDS, HeaterKind
from aquifer.demo.simulate import simulate
from aquifer.forecasts.models import Forecast


@pytest.fixture
def district(db, tmp_path, settings):
    settings.MEDIA_ROOT = tmp_path / "media"
    call_command("load_demo", folder=tmp_path, unplanned=True)
    return simulate(timezone.localdate())


def test_windows_of_what_lies_there_hold_it(district):
    """Both were in half of their windows when a flush was taken to remove what the book says, and a year to be as the
    last."""
    held = {}
    for component, figure in (("sediment", "depth_mm"), ("scale", "thickness_mm")):
        told, true = [], []
        for one in Forecast.objects.current().filter(component=component).select_related("heater"):
            # The simulator knows no coil.
            if one.heater.tag in district.depths_mm and not KINDS[HeaterKind(one.heater.kind)].has_coil:
                told.append(one.state[figure])
                true.append(district.depths_mm[one.heater.tag])
        told, true = np.array(told), np.array(true)
        held[component] = float(np.mean((true >= told[:, 0]) & (true <= told[:, 2])))
        assert len(true) > 50
    assert 0.70 <= held["sediment"] <= 0.9 and 0.70 <= held["scale"] <= 0.95
