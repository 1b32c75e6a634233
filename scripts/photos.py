"""Takes the demo's photos anew with the simulated camera, and looks at them."""

import json

from pebble_wheel.demo.lantern_lane import designs
from pebble_wheel.demo.photos import FOLDER, TAKEN, pixels, shown
from pebble_wheel.notation.picture import read_picture, written
from pebble_wheel.workshop.photographed import seen, strands_in


def main() -> None:
    """Take every photo."""
    FOLDER.mkdir(exist_ok=True)
    told, kept = [], designs()
    for place, taken in enumerate(TAKEN):
        picture = written(pixels(taken, kept[taken.design]))
        (FOLDER / f"{place}.jpg").write_bytes(picture)
        found = seen(read_picture(picture).data, strands_in(shown(taken, kept[taken.design])))
        told.append({"typed": found.typed, "refused": found.refused, "uneven": found.uneven})
    (FOLDER / "found.json").write_text(json.dumps(told, indent=1) + "\n", encoding="utf-8")


if __name__ == "__main__":
    main()
