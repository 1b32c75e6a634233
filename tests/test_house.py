"""The house itself: the map names what is there, and the contract on sentences finds them."""

import re
from pathlib import Path

from scripts.prose import WORD, sentences

TOP = Path(__file__).parent.parent


def test_every_file_that_the_map_names_is_there():
    named = re.findall(r"`((?:pebble_wheel|tests|docs)/[^`]*)`", (TOP / "docs" / "map.md").read_text("utf-8"))
    assert len(named) > 40
    assert [each for each in named if not (TOP / each).exists()] == []


def test_the_map_names_every_screen_and_every_room():
    text = (TOP / "docs" / "map.md").read_text("utf-8")
    rooms = {
        each.name for each in (TOP / "pebble_wheel" / "mechanics").iterdir() if each.is_dir() and each.name[0] != "_"
    }
    assert all(f"`{room}/`" in text for room in rooms)


def test_sentences_are_found_but_for_those_in_docstrings_errors_and_faults():
    source = '''
"""This is what a module is for."""
LABEL = "as plied"
SAID = "This one should not stand here"
ALSO = f"nor {LABEL} this one that is formatted"

def check(value):
    """Say nothing much about it here."""
    if value:
        raise ValueError("this is said where it is found")
    return Fault("yarn", "this is said where it is found")
'''
    run = re.compile(rf"(?:{WORD}[,;:]? ){{3,}}{WORD}")
    assert [line for line, _ in sentences(source, run, frozenset({"Fault"}))] == [4, 5]
