"""Any structure that can be written is either read, with every figure finite, or refused with its place."""

import json
import math

from hypothesis import example, given
from hypothesis import strategies as st

from pebble_wheel.drawing.dress import dress_of
from pebble_wheel.drawing.yarn import yarn_svg
from pebble_wheel.mechanics.reading.reading import JammedError
from pebble_wheel.mechanics.rest.balance import NoBalanceError
from pebble_wheel.notation.address import Address, parted
from pebble_wheel.notation.design import check_design, finish_of, structure_of, walk
from pebble_wheel.notation.faults import InputError
from pebble_wheel.wording.answer import answer_of
from tests.yarns import read

directions = st.sampled_from("SZ")
turns = st.fixed_dictionaries({"turns_per_m": st.floats(3, 1500), "direction": directions})
multiples = st.fixed_dictionaries({"of_balanced": st.sampled_from([0.3, 1.0, 1.5]), "direction": directions})
twists = turns | multiples
fibres = st.sampled_from(["merino", "cotton", "romney"])
preps = st.sampled_from(["combed", "semi", "carded"])
leaves = st.fixed_dictionaries(
    {"kind": st.just("single"), "fibre": fibres, "prep": preps, "tex": st.floats(0.5, 9000), "twist": turns}
) | st.fixed_dictionaries({"kind": st.just("bought"), "tex": st.floats(1, 900), "twist": turns})


def laid(inner):
    strand = st.builds(lambda node, count: {**node, "count": count}, inner, st.sampled_from([1, 2, 3, 6]))
    strip = st.floats(1, 5000)
    wraps = st.builds(
        lambda tex: {"fibre": "merino", "prep": "carded", "strip_tex": tex, "strip_width_mm": 10.0}, strip
    )
    return st.one_of(
        st.fixed_dictionaries(
            {"kind": st.just("ply"), "strands": st.lists(strand, min_size=1, max_size=3), "twist": twists},
            optional={"tension_share": st.sampled_from([0.0, 0.3, 1.0])},
        ),
        st.fixed_dictionaries(
            {"kind": st.just("chain"), "strand": inner, "loop_mm": st.sampled_from([5, 150]), "twist": twists}
        ),
        st.fixed_dictionaries({"kind": st.just("core-spun"), "core": inner, "wrap": wraps, "twist": twists}),
        st.fixed_dictionaries(
            {
                "kind": st.just("wrapped"),
                "binder": inner,
                "wrapper": inner,
                "overfeed": st.sampled_from([1, 5]),
                "twist": twists,
            }
        ),
    )


def reached(yarn, at: Address) -> bool:
    """Whether there is a strand at an address of a yarn as it stands in a file."""
    for name in at.split(".")[1:]:
        place = Address(name).place
        inner = yarn.get("strands") if place is not None else yarn.get(name)
        yarn = inner[place] if place is not None else inner
    return at.startswith("yarn") and isinstance(yarn, dict)


OVERTWISTED = {"kind": "single", "fibre": "merino", "prep": "combed", "tex": 6375.0, "count": 2}


@example(
    {
        "kind": "ply",
        "twist": {"of_balanced": 0.3, "direction": "Z"},
        "strands": [{**OVERTWISTED, "twist": {"turns_per_m": 1500.0, "direction": "Z"}}],
    }
)
@given(st.recursive(leaves, laid, max_leaves=4))
def test_any_structure_is_read_or_refused(yarn):
    try:
        design = check_design({"format": "pebble-wheel-design", "version": 1, "name": "any", "yarn": yarn})
        reading = read(structure_of(design.yarn), finish_of(design), variants=16)
    except InputError as refused:
        assert refused.faults
        for fault in refused.faults:
            at, _ = parted(fault.place)
            assert reached(yarn, at) and fault.message
        return
    except (JammedError, NoBalanceError) as refused:
        assert refused.path in {place for _, place, _ in walk(design.yarn)}
        return
    answer = answer_of(design, reading)
    json.dumps(answer.model_dump(), allow_nan=False)
    assert all(math.isfinite(level.diameter_mm) and level.diameter_mm > 0 for level in answer.levels)
    assert "NaN" not in yarn_svg(reading.made, dress_of(design.yarn), None, False, "any")
