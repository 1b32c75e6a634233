"""Four photos of the yarn room, taken by a simulated camera."""

import json
import sqlite3
from dataclasses import dataclass
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from pebble_wheel.drawing.camera import Scene, photo_of
from pebble_wheel.drawing.dress import dress_of
from pebble_wheel.mechanics.reading.constants import Constants
from pebble_wheel.mechanics.rest.balance import resolve_made
from pebble_wheel.notation.design import Design, NodeModel, new_design, structure_of
from pebble_wheel.notation.marks import starting_marks
from pebble_wheel.notation.picture import read_picture
from pebble_wheel.notation.sample import strand_of
from pebble_wheel.store import photos
from pebble_wheel.store.designs import find
from pebble_wheel.workshop.photographed import strands_in


@dataclass(frozen=True)
class Taken:
    """A photo of the trail."""

    design: str
    strand: str
    scene: Scene
    at: str


WIDE, HIGH = 1000, 640

TAKEN: tuple[Taken, ...] = (
    Taken("Fisher's jersey", "yarn", Scene(26.0, 1, WIDE, HIGH, tilt=0.03, halo=0.05), "2026-08-23T18:10:00+00:00"),
    Taken(
        "Fisher's jersey",
        "yarn",
        Scene(22.0, 2, 1000, 640, mark="square", tilt=-0.06, halo=0.04),
        "2026-08-23T18:12:00+00:00",
    ),
    Taken("Fisher's jersey", "yarn.strands[0]", Scene(40.0, 3, WIDE, HIGH, tilt=0.02), "2026-08-24T17:40:00+00:00"),
    Taken(
        "Stage-door mittens", "yarn", Scene(16.0, 4, 1000, 640, shade=0.12, ground="cloth"), "2026-08-30T16:05:00+00:00"
    ),
)


FOLDER = Path(__file__).parent / "pictures"
"""The photos as the camera took them, and what looking found in them; made anew by ``scripts/photos.py``."""


def shown(taken: Taken, design: Design) -> NodeModel:
    """Return what a photo shows."""
    return strand_of(design, taken.strand).model_copy(update={"count": 1})


def pixels(taken: Taken, design: Design) -> NDArray[np.uint8]:
    """Return a photo as the simulated camera takes it."""
    alone = new_design("strand", shown(taken, design).model_dump(exclude_none=True))
    made = resolve_made(structure_of(alone.yarn), Constants().rod)
    return photo_of(made, dress_of(alone.yarn), taken.scene)[0]


def take(connection: sqlite3.Connection, numbers: dict[str, int]) -> None:
    """Put the photos into a store, looked at; what was found in the first was taken."""
    told = json.loads((FOLDER / "found.json").read_text(encoding="utf-8"))
    for place, (each, found) in enumerate(zip(TAKEN, told, strict=True)):
        design = find(connection, numbers[each.design]).design
        read = read_picture((FOLDER / f"{place}.jpg").read_bytes())
        strands = strands_in(shown(each, design))
        typed = starting_marks(read.width, read.height, strands)
        accepted = place == 0
        typed |= found["typed"] if accepted else {}
        body = photos.Body(
            read.width,
            read.height,
            strands,
            typed,
            found["typed"],
            tuple(found["refused"]),
            found["uneven"],
            marked=accepted,
            looked=True,
            accepted=accepted,
        )
        photos.keep_new(connection, numbers[each.design], each.strand, read.data, body, noted_at=each.at)
