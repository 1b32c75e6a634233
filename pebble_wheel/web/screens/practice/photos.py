"""One's own photos to practise with: those in which way and angle were measured."""

import math
import sqlite3
from typing import get_args

from pebble_wheel.notation.faults import InputError
from pebble_wheel.notation.marks import Way, read_marks
from pebble_wheel.notation.settings import Settings
from pebble_wheel.store import photos
from pebble_wheel.workshop.photographed import figures_of
from pebble_wheel.workshop.practice import OwnPhoto

MOST = 24
"""Photos, the newest."""


def own_photos(connection: sqlite3.Connection) -> list[OwnPhoto]:
    """Return the photos that can be asked about."""
    found = (_own(each) for each in photos.marked(connection, MOST))
    return [each for each in found if each]


def _own(photo: photos.Photo) -> OwnPhoto | None:
    try:
        marks = read_marks(photo.body.typed, Settings())
    except InputError:
        return None
    told = figures_of(marks, photo.body.strands)
    if marks.line is None or told.centre is None or not told.way:
        return None
    (ax, ay), (bx, by) = marks.line
    middle, along = ((ax + bx) / 2, (ay + by) / 2), math.degrees(math.atan2(by - ay, bx - ax))
    body, way = photo.body, next(each for each in get_args(Way) if each == told.way)
    return OwnPhoto(photo.id, photo.uid, body.width, body.height, way, told.centre.value, middle, along)
