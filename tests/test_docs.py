"""What docs/extending.md names is there: a file, or a name in a module."""

import re
from importlib import import_module
from pathlib import Path

import pytest

ROOT = Path(__file__).parents[1]
SPANS = sorted(set(re.findall(r"`([\w./<>-]+)`", (ROOT / "docs" / "extending.md").read_text())))
FILES = [one for one in SPANS if re.search(r"\.(py|ts|tsx|toml|md)$", one) or one.endswith("/")]
NAMES = [one for one in SPANS if "/" in one and one not in FILES]
ROOMS = ("", "src/aquifer", "src/aquifer/core/procedures/data")


def test_the_page_names_enough_to_be_worth_holding():
    assert len(FILES) > 40 and len(NAMES) > 25


@pytest.mark.parametrize("file", FILES)
def test_a_file_that_it_names_is_there(file):
    places = [ROOT / room / file for room in ROOMS]
    anywhere = list((ROOT / "src" / "aquifer").rglob(file)) + list((ROOT / "web" / "src").rglob(file))
    assert any(place.exists() for place in places) or ("/" not in file and anywhere), file


@pytest.mark.parametrize("name", NAMES)
def test_a_name_that_it_names_is_in_its_module(name):
    path, _, own = name.rpartition(".")
    module = import_module("aquifer." + path.replace("/", "."))
    assert hasattr(module, own), name


def test_every_room_of_the_package_stands_in_the_readme_and_among_the_layers():
    readme, layers = (ROOT / "README.md").read_text(), (ROOT / ".importlinter").read_text()
    rooms = {one.name for one in (ROOT / "src" / "aquifer").iterdir() if (one / "__init__.py").exists()}
    assert [room for room in sorted(rooms) if not re.search(rf"\b{room}\b", readme)] == []
    listed = layers.partition("containers =")[2].partition("exhaustive")[0]
    assert [room for room in sorted(rooms) if not re.search(rf"\b{room}\b", listed)] == []


THREATS = re.findall(r"`([\w/]+\.py)(?:::(\w+))?`", (ROOT / "docs" / "security.md").read_text())


def test_whoever_reads_of_a_threat_finds_the_test_that_is_named():
    assert len(THREATS) > 30
    for file, test in THREATS:
        source = (ROOT / "tests" / file).read_text()
        assert not test or f"def {test}(" in source, (file, test)
