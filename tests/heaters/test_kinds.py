"""What the table of kinds asks of a heater's record is there to be kept."""

import pytest

from aquifer.core.kinds import KINDS, HeaterKind
from aquifer.heaters.models import Heater, PartKind


@pytest.mark.parametrize("kind", list(HeaterKind))
def test_every_figure_and_part_of_a_kind_has_its_place_on_record(kind):
    row = KINDS[kind]
    assert set(row.fields) <= {one.name for one in Heater._meta.get_fields()}
    assert set(row.parts) <= set(PartKind.values)
