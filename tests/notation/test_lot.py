"""Fibre in hand as people say it."""

import json

import pytest
from hypothesis import given
from hypothesis import strategies as st

from pebble_wheel.mechanics.fibre.table import FIBRES, UNKNOWN_BREEDS
from pebble_wheel.notation.design import fibre_said
from pebble_wheel.notation.faults import InputError
from pebble_wheel.notation.lot import LOT_FIELDS, check_lot, read_fibres, read_lot
from pebble_wheel.notation.settings import Settings, in_units

PLAIN = Settings()


@pytest.mark.parametrize(
    ("text", "shares"),
    [
        ("merino", {"merino": 1}),
        ("Merino, fine", {"merino": 1}),
        ("50 merino, 50 silk", {"merino": 50, "silk": 50}),
        ("half merino half silk", {"merino": 50, "silk": 50}),
        ("70% corriedale 30% tussah".replace(" 30", ", 30"), {"corriedale": 70, "tussah": 30}),
        ("80 bfl and silk", {"bfl": 80, "silk": 20}),
        ("merino + yak", {"merino": 1, "yak": 1}),
        ("two thirds shetland, a third mohair", {"shetland": 200 / 3, "mohair": 100 / 3}),
        ("alpaca with silk", {"alpaca": 1, "silk": 1}),
        ("BFL", {"bfl": 1}),
    ],
)
def test_blends_by_their_shares(text, shares):
    names = {each.id if each.id != "tussah" else "tussah": w for each, w in read_fibres(text)}
    assert names == pytest.approx(shares, rel=1e-5)


@pytest.mark.parametrize("text", ["fine wool", "medium wool", "coarse wool, breed unknown", "wool", "outerwear wool"])
def test_breed_unknown(text):
    ((fibre, share),) = read_fibres(text)
    assert fibre in UNKNOWN_BREEDS.values() and share == 1


@pytest.mark.parametrize(
    ("text", "hint"), [("merno", "nearest is merino"), ("50 corridale, 50 silk", "corriedale"), ("zzz", "coarse wool")]
)
def test_an_unknown_fibre_is_answered_with_the_nearest(text, hint):
    with pytest.raises(InputError, match=hint):
        read_fibres(text)


def test_a_lot_as_typed():
    typed = {
        "name": "Two braids", "fibres": "half merino half silk", "grams": "96+138 g", "staple": "3-4 in",
        "micron": "19", "colours": "#112233, #445566", "run": "½ yd", "prep": "semi", "draw": "long", "waste": "12 %",
        "note": "blue",
    }  # fmt: skip
    lot = read_lot(typed, PLAIN, "abc")
    assert lot.grams == 234 and lot.fibre.staple == pytest.approx([76.2, 101.6]) and lot.fibre.micron == [19, 19]
    assert (
        lot.colours == ["#112233", "#445566"]
        and lot.run_m == pytest.approx(0.4572)
        and lot.waste == pytest.approx(0.12)
    )
    assert lot.fibre.lot == "abc" and [each.fibre for each in lot.fibre.shares] == ["merino", "silk"]
    assert check_lot(lot.model_dump_json()) == lot
    spun = fibre_said(lot.fibre.model_dump_json(exclude_none=True))
    assert spun.name == "Two braids" and spun.bloom == pytest.approx(0.17) and spun.factor == pytest.approx((19.5, 25))
    assert [each for each, _ in spun.shares] == [FIBRES["merino"], FIBRES["silk"]]
    assert read_lot({**typed, "grams": "4 + 5"}, in_units(PLAIN, "imperial"), "x").grams == pytest.approx(
        9 * 28.3495, rel=1e-4
    )
    # combed top loses 2 %, carded 5 (common practice, no source)
    assert [read_lot({"name": "a", "prep": prep}, PLAIN, "x").waste for prep in ("combed", "carded")] == [0.02, 0.05]


@pytest.mark.parametrize(
    ("field", "text"),
    [
        *(
            ("name", ""),
            ("fibres", ""),
            ("fibres", "0 merino, 100 silk"),
            ("micron", "fat"),
            ("staple", "3 g"),
            ("crimp", "x"),
        ),
        *(
            ("grams", "two"),
            ("colours", "bluish"),
            ("run", "1 g"),
            ("waste", "80"),
            ("prep", "felted"),
            ("draw", "short long"),
        ),
    ],
)
def test_every_fault_of_a_lot_stands_at_its_field(field, text):
    with pytest.raises(InputError) as refused:
        read_lot({"name": "a", field: text}, PLAIN, "x")
    assert [fault.place for fault in refused.value.faults] == [field]
    with pytest.raises(InputError):
        check_lot(json.dumps({"name": "a"}))


@given(st.dictionaries(st.sampled_from(sorted(LOT_FIELDS)), st.text(max_size=70)))
def test_nothing_typed_for_a_lot_breaks_it(typed):
    try:
        lot = read_lot(typed, PLAIN, "x")
    except InputError as error:
        assert error.faults
    else:
        assert check_lot(lot.model_dump_json()) == lot
