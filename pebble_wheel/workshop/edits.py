"""Building by hand: what can be done to one part of a yarn, each as draft in, draft out."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal

from pebble_wheel.notation.address import Address
from pebble_wheel.notation.draft import COLOUR_FIELDS, Draft, Part, fresh, part_at, parts, replaced, too_many

SIDES = {"S": "Z", "Z": "S"}
NEXT_COLOURS = ("#8fa3a0", "#a8704f", "#5d6b86", "#c39a3d", "#b9a9c4")


ActionName = Literal[
    "add",
    "ply",
    "chain",
    "core",
    "coil",
    "duplicate",
    "part",
    "swap",
    "mirror",
    "thread",
    "spin",
    "open",
    "remove",
    "more-colours",
    "fewer-colours",
]


@dataclass(frozen=True)
class Built:
    """A draft with the part that is in hand."""

    draft: Draft
    at: Address


Act = Callable[[Draft, Address, bool], Built]
"""What is done to a part of a draft, and whether to its likes too."""


@dataclass(frozen=True)
class Action:
    """Something that can be done to a part."""

    name: ActionName
    key: str
    """Pressed while the tree has the focus."""
    fits: Callable[[Draft, Address], bool]
    act: "Act"


def typed_into(draft: Draft, path: Address, typed: dict[str, str], together: bool) -> Draft:
    """Return the draft with entries changed in one part, and in all its likes where they go together.

    Likes are parts of the same kind with the same entries but for colour and count; these are never shared.
    """
    before = part_at(draft, path)
    changed = {field: value for field, value in typed.items() if value != before.of(field)}
    shared = {field: value for field, value in changed.items() if field not in (*COLOUR_FIELDS, "count")}

    def change(place: str, part: Part) -> Part:
        if place == path:
            return part.with_typed(changed)
        return part.with_typed(shared) if together and _like(part, before) else part

    return replaced(draft, change)


def likes(draft: Draft, path: Address) -> int:
    """Return how many other parts have the same entries but for colour and count."""
    own = part_at(draft, path)
    return sum(place != path and _like(part, own) for place, part in parts(draft.yarn))


def _like(part: Part, other: Part) -> bool:
    own = (*COLOUR_FIELDS, "count")
    return (part.kind, part.apart) == (other.kind, other.apart) and all(
        part.of(field) == other.of(field) for field in {*part.typed, *other.typed} if field not in own
    )


def _same(part: Part, other: Part) -> bool:
    """Whether two parts are alike all through, but for colours and their own count."""
    return (
        _like(part, other)
        and len(part.inner) == len(other.inner)
        and all(_same(a, b) and a.count == b.count for a, b in zip(part.inner, other.inner, strict=True))
    )


def _in_ply(draft: Draft, path: Address) -> bool:
    return path.place is not None


def _everywhere(draft: Draft, path: Address, build: Callable[[Part], Part], together: bool = True) -> Built:
    """Build a part anew, and with it all that are the same all through where they go together."""
    before = part_at(draft, path)
    alike = {place for place, part in parts(draft.yarn) if _same(part, before)} if together else {path}
    return Built(replaced(draft, lambda place, part: build(part) if place in alike else part), path)


def _at_parent(draft: Draft, path: Address, build: Callable[[list[Part], int], int]) -> Built:
    """Change the strands of the ply that a part is in; ``build`` returns the place to hold afterwards."""
    above, strands = path.above, list(part_at(draft, path.above).inner)
    at = build(strands, path.place or 0)
    laid = replaced(draft, lambda own, part: part.with_inner(tuple(strands)) if own == above else part)
    return Built(laid, above.strand(at))


def _single(part: Part, **changed: str) -> Part:
    """Return one such strand on its own."""
    return part.with_typed({"count": "1", **changed})


def _in_place_of(old: Part, new: Part) -> Part:
    """Return a part that takes the place of another: as many of it, and as much set apart."""
    return new.with_typed({"count": old.of("count")}).model_copy(update={"apart": old.apart or new.apart})


def _against(part: Part) -> str:
    return SIDES.get(part.of("direction"), "S")


def _ply(part: Part) -> Part:
    return _in_place_of(part, fresh("ply", (part.with_typed({"count": "2"}),), direction=_against(part)))


def _chain(part: Part) -> Part:
    return _in_place_of(part, fresh("chain", (_single(part),), direction=_against(part)))


def _core(part: Part) -> Part:
    """Return the part as a core, wrapped the way it was last twisted, so that the wheel does not untwist it."""
    return _in_place_of(part, fresh("core-spun", (_single(part),), direction=part.of("direction")))


def _coil(part: Part) -> Part:
    binder = fresh("bought", direction=_against(part))
    return _in_place_of(part, fresh("wrapped", (binder, _single(part)), direction=_against(part)))


def _open(part: Part) -> Part:
    """Return what a part was laid from: its thickest-seen strand, the wrapper of a coiled yarn, else the first."""
    return _in_place_of(part, part.inner[-1 if part.kind == "wrapped" else 0])


def _add(draft: Draft, path: Address, together: bool) -> Built:
    """Add one more strand: to the ply in hand, beside the strand in hand, or as a ply of the two."""
    if part_at(draft, path).kind == "ply":
        return _everywhere(draft, path, _with_one_more, together)
    if _in_ply(draft, path):
        return _only(lambda own: own.with_typed({"count": str(own.count + 1)}))(draft, path, together)
    return _everywhere(draft, path, _ply, together)


def _with_one_more(ply: Part) -> Part:
    """Return a ply with one more of its last strand; one of another colour stands for itself already."""
    *rest, last = ply.inner
    return ply.with_inner((*rest, last.with_typed({"count": str(last.count + 1)})))


def _duplicate(draft: Draft, path: Address, together: bool) -> Built:
    def build(strands: list[Part], place: int) -> int:
        strands.insert(place + 1, _single(strands[place]))
        return place + 1

    return _at_parent(draft, path, build)


def _part_off(draft: Draft, path: Address, together: bool) -> Built:
    """Take one of several like strands off as its own: it is unlike from now on, and changes with none of them."""

    def build(strands: list[Part], place: int) -> int:
        part = strands[place]
        strands[place] = part.with_typed({"count": str(part.count - 1)})
        strands.insert(place + 1, _single(part).model_copy(update={"apart": word}))
        return place + 1

    word = _fresh_word(draft)
    return _at_parent(draft, path, build)


def _fresh_word(draft: Draft) -> str:
    """Return a word that no part has been set apart by."""
    taken = {part.apart for _, part in parts(draft.yarn)}
    return next(word for word in map(str, range(1, len(taken) + 2)) if word not in taken)


def _swap(draft: Draft, path: Address, together: bool) -> Built:
    """Change places with the strand that follows, or wrapper and binder with each other."""
    if _in_ply(draft, path):

        def build(strands: list[Part], place: int) -> int:
            after = (place + 1) % len(strands)
            strands[place], strands[after] = strands[after], strands[place]
            return after

        return _at_parent(draft, path, build)
    above = path.above
    swapped = replaced(draft, lambda own, part: part.with_inner(part.inner[::-1]) if own == above else part)
    return Built(swapped, above.inner("wrapper" if path.name == "binder" else "binder"))


def _remove(draft: Draft, path: Address, together: bool) -> Built:
    """Take out one strand; the last one left of a ply stands for itself."""
    above = path.above

    def build(strands: list[Part], place: int) -> int:
        if strands[place].count > 1:
            strands[place] = strands[place].with_typed({"count": str(strands[place].count - 1)})
            return place
        del strands[place]
        return max(place - 1, 0)

    built = _at_parent(draft, path, build)
    left = part_at(built.draft, above)
    if sum(each.count for each in left.inner) > 1:
        return built
    alone = _in_place_of(left, left.inner[0])
    return Built(replaced(built.draft, lambda own, part: alone if own == above else part), above)


def _mirror(draft: Draft, path: Address, together: bool) -> Built:
    """Turn a part over: S for Z all through."""

    def turn(own: Address, part: Part) -> Part:
        return part.with_typed({"direction": _against(part)}) if own.lies_in(path) else part

    return Built(replaced(draft, turn), path)


def _more_colours(part: Part) -> Part:
    another = NEXT_COLOURS[len(part.colours) % len(NEXT_COLOURS)]
    return part.with_typed({"colours": " ".join([*part.colours, another])})


def _fewer_colours(part: Part) -> Part:
    return part.with_typed({"colours": " ".join(part.colours[:-1])})


def _only(build: Callable[[Part], Part]) -> Act:
    """Build this part alone, whatever is like it."""
    return lambda draft, path, together: Built(
        replaced(draft, lambda place, part: build(part) if place == path else part), path
    )


def _become(kind: str) -> Callable[[Part], Part]:
    def build(part: Part) -> Part:
        kept = {field: part.of(field) for field in ("direction", "colours", "run", "count", "size")}
        return _in_place_of(part, fresh("single" if kind == "single" else "bought", **kept))

    return build


def _kind(*kinds: str) -> Callable[[Draft, Address], bool]:
    return lambda draft, path: part_at(draft, path).kind in kinds


def _on(build: Callable[[Part], Part]) -> Act:
    return lambda draft, path, together: _everywhere(draft, path, build, together)


def _several(draft: Draft, path: Address) -> bool:
    return _in_ply(draft, path) and part_at(draft, path).count > 1


def _has_neighbour(draft: Draft, path: Address) -> bool:
    if path.name in ("binder", "wrapper"):
        return True
    return _in_ply(draft, path) and len(part_at(draft, path.above).inner) > 1


def _always(draft: Draft, path: Address) -> bool:
    return True


COLOURING: tuple[Action, ...] = (
    Action("more-colours", "", _kind("single", "bought", "core-spun"), _only(_more_colours)),
    Action("fewer-colours", "", _kind("single", "bought", "core-spun"), _only(_fewer_colours)),
)
"""Offered beside the colours."""

ACTIONS: tuple[Action, ...] = (
    Action("add", "a", _always, _add),
    Action("ply", "p", _always, _on(_ply)),
    Action("chain", "c", _always, _on(_chain)),
    Action("core", "w", _always, _on(_core)),
    Action("coil", "o", _always, _on(_coil)),
    Action("duplicate", "d", _in_ply, _duplicate),
    Action("part", "u", _several, _part_off),
    Action("swap", "x", _has_neighbour, _swap),
    Action("mirror", "m", _always, _mirror),
    Action("thread", "b", _kind("single"), _on(_become("bought"))),
    Action("spin", "b", _kind("bought"), _on(_become("single"))),
    Action("open", "k", _kind("ply", "chain", "core-spun", "wrapped"), _on(_open)),
    Action("remove", "Delete", _in_ply, _remove),
)
"""In the order in which a screen offers them."""


def offered(draft: Draft, path: Address) -> list[Action]:
    """Return what can be done to a part."""
    return [action for action in ACTIONS if action.fits(draft, path)]


def done(draft: Draft, path: Address, name: str, together: bool = True) -> Built:
    """Return the draft after an action on a part, and on its likes where they go together.

    It is the same where the action does not fit the part, or would make far too many.
    """
    built = Built(draft, path)
    for action in (*ACTIONS, *COLOURING):
        if action.name == name and action.fits(draft, path):
            built = action.act(draft, path, together)
            break
    return Built(draft, path) if too_many(built.draft) else built
