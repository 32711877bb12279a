"""Lines put together by chance from what technicians write: each says what its parts say, and nothing passes from one
part to another."""

import random
import tomllib
from pathlib import Path

import pytest

from aquifer.formats.job_text import findings
from tests.conftest import examples

SAID = tomllib.loads(Path(__file__).with_name("made_lines.toml").read_text())
BETWEEN = (", ", "; ", ". ", " - ", " + ", " / ")
TOLD = ("grade", "outcome", "at_valve", "removed")


def meant(text: str) -> set[str]:
    """Each thing that was understood, by its task and its grade."""
    return {" ".join(str(one[name]) for name in ("task", *TOLD) if name in one) for one in findings(text)}


@pytest.mark.parametrize(
    ("means", "text"), [(means, text) for tongue in SAID.values() for means, texts in tongue.items() for text in texts]
)
def test_each_part_says_what_it_means(means, text):
    assert meant(text) == set(filter(None, means.split(" + ")))


def line(seed: int, tongue: str) -> tuple[str, set[str]]:
    """A line of two to four parts, each about a thing of its own, and what it means."""
    rng, parts, means, things = random.Random(seed), list[str](), set[str](), set[str]()
    between = rng.choice(BETWEEN)
    for meaning in rng.sample([*SAID[tongue], "", ""], rng.randrange(2, 5)):
        text = rng.choice(SAID[tongue][meaning])
        named = {one.split("_")[0] for one in meaning.split(" + ")} | {
            thing for thing, words in THINGS.items() if any(word in text.casefold() for word in words)
        }
        if not named & things:
            parts.append(text)
            means |= set(filter(None, meaning.split(" + ")))
            things |= named - {""}
    return between.join(parts), means


THINGS = {
    "flush": ("flush", "spül", "drain"), "anode": ("anode", "rod"), "relief": ("t&p", "relief", "tpr", "sv", "ventil"),
    "expansion": ("exp", "ausdehn", "ag "), "descale": ("kalk",), "upkeep": ("screen", "filter"),
    "look": ("element",), "pressure": ("pressure", "druck"),
}  # fmt: skip
"""What a part may be about; of one thing a line says one."""


@pytest.mark.parametrize("tongue", [*SAID])
def test_a_line_says_what_its_parts_say(tongue):
    other = [(text, means, found) for text, means, found in _lines(tongue) if found != means]
    assert not other, other[:8]


def _lines(tongue: str) -> list[tuple[str, set[str], set[str]]]:
    made = (line(seed, tongue) for seed in range(examples(1000, 50_000)))
    return [(text, means, meant(text)) for text, means in made]


@pytest.mark.parametrize(
    "again", ["after", "operating", "1.", "new ", "flush", "t&p ", "1/2", "replaced.", "... ", "and "]
)
def test_a_line_of_one_word_again_and_again_is_read_at_once(again):
    # Of the first a reader tried every way in which the word can be cut, and came to no end.
    assert isinstance(findings("T&P ok, good " + again * (500 // len(again)) + " zzz"), list)
