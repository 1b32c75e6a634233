"""Reads the strands that a browser is given: written anew from the description in drawing/wool.py."""

import json

import numpy as np


def strands_in(data: bytes) -> dict:
    """Return the head of a piece of data, with arrays in every strand."""
    long = int.from_bytes(data[:4], "little")
    head, at = json.loads(data[4 : 4 + long]), 4 + long
    for strand in head["strands"]:
        count = strand["samples"]
        names = ("x", "y", "z", "r", "lean", "shade")[: 6 if len(strand["colours"]) > 1 else 5]
        for name in names:
            low, high = np.frombuffer(data[at : at + 2 * count], np.uint8).reshape(2, count).astype(int)
            folded = low + 256 * high
            values = np.cumsum(np.where(folded % 2, -(folded + 1) // 2, folded // 2))
            strand[name] = values * {"lean": head["angle"], "shade": head["shades"]}.get(name, head["unit"])
            at += 2 * count
    assert at == len(data)
    return head
