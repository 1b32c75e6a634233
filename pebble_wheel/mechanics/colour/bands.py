"""Colours along fibre: bands in turn, and what preparing the fibre makes of them.

A preparation keeps all fibre: of every colour as much comes out as goes in.
"""

from dataclasses import dataclass, replace

import numpy as np

from pebble_wheel.mechanics.arrays import FloatArray, IntArray


@dataclass(frozen=True)
class Bands:
    """Colours in turn along fibre or a strand."""

    colours: IntArray
    """Number of each band's colour, shape (bands,)."""
    lengths: FloatArray
    """How much of it, in any unit: grams, or mm of strand; shape (bands,)."""
    blended: float = 0.0
    """Share of the shorter of two neighbours over which one runs into the other; 0 where they meet sharply."""

    @property
    def whole(self) -> float:
        """How much there is."""
        return float(self.lengths.sum())

    @property
    def ends(self) -> FloatArray:
        """Where each band ends."""
        return np.cumsum(self.lengths)

    def of(self, whole: float) -> "Bands":
        """Return the same bands, so much of them."""
        return replace(self, lengths=self.lengths * (whole / self.whole))


def at_random(bands: Bands, pieces: int, seed: int) -> Bands:
    """Return each band in so many pieces of unequal length, all of them in a random order; the same for one seed."""
    rng = np.random.default_rng(seed)
    cuts = rng.dirichlet(np.full(pieces, 4.0), len(bands.lengths))
    colours, lengths = np.repeat(bands.colours, pieces), (cuts * bands.lengths[:, None]).ravel()
    order = rng.permutation(len(lengths))
    return _joined(replace(bands, colours=colours[order], lengths=lengths[order]))


def other_end(bands: Bands) -> Bands:
    """Return bands spun from the other end."""
    return replace(bands, colours=bands.colours[::-1], lengths=bands.lengths[::-1])


def strips(bands: Bands, number: int) -> Bands:
    """Return bands drawn lengthwise into so many strips, spun one after the other.

    Each colour runs so many times shorter, so many times over.
    """
    return replace(bands, colours=np.tile(bands.colours, number), lengths=np.tile(bands.lengths / number, number))


def broken(bands: Bands, pieces: int, seed: int) -> Bands:
    """Return bands broken into so many pieces of one length, which are shuffled; the same for one seed."""
    ends, whole = bands.ends, bands.whole
    cuts = np.linspace(0, whole, pieces + 1)
    edges = np.union1d(np.concatenate([[0.0], ends]), cuts)
    middles = (edges[1:] + edges[:-1]) / 2
    colour = bands.colours[np.minimum(np.searchsorted(ends, middles), len(ends) - 1)]
    piece = np.minimum(np.searchsorted(cuts, middles, side="right") - 1, pieces - 1)
    place = np.random.default_rng(seed).permutation(pieces)
    order = np.argsort(place[piece], kind="stable")
    return _joined(replace(bands, colours=colour[order], lengths=np.diff(edges)[order]))


def by_colour(bands: Bands) -> Bands:
    """Return all of one colour together, in the order in which colours first come."""
    _, first = np.unique(bands.colours, return_index=True)
    own = bands.colours[np.sort(first)]
    return replace(bands, colours=own, lengths=np.array([bands.lengths[bands.colours == each].sum() for each in own]))


def beyond(bands: Bands, start: float, most: int) -> Bands:
    """Return what is left of bands from a place on, so many of them at the most; where they end, the last of them."""
    first = min(int(np.searchsorted(bands.ends, start, side="right")), len(bands.lengths) - 1)
    lengths = bands.lengths[first : first + most].copy()
    lengths[0] = max(float(bands.ends[first]) - start, 1e-9)
    return replace(bands, colours=bands.colours[first : first + most], lengths=lengths)


def one_after_another(several: list[Bands]) -> Bands:
    """Return bands of several lots, spun one after the other."""
    return Bands(
        np.concatenate([each.colours for each in several]),
        np.concatenate([each.lengths for each in several]),
        max(each.blended for each in several),
    )


def _joined(bands: Bands) -> Bands:
    """Return bands with neighbours of one colour as one."""
    new = np.concatenate([[True], np.diff(bands.colours) != 0])
    lengths = np.add.reduceat(bands.lengths, np.flatnonzero(new))
    return replace(bands, colours=bands.colours[new], lengths=lengths)


def colour_at(bands: Bands, at: FloatArray) -> IntArray:
    """Return the number of the colour at places along bands; beyond the end that of the last."""
    return np.asarray(bands.colours[np.minimum(np.searchsorted(bands.ends, at, side="right"), len(bands.lengths) - 1)])


def lab_at(bands: Bands, palette: FloatArray, at: FloatArray) -> FloatArray:
    """Return the colours at places along bands, running into each other where they are blended.

    Args:
        bands: along which.
        palette: OKLab of each colour, shape (colours, 3).
        at: places, any shape (…).

    Returns:
        OKLab, of shape (…, 3).
    """
    last = len(bands.lengths) - 1
    ends = bands.ends
    at = np.clip(at, 0, bands.whole)
    band = np.minimum(np.searchsorted(ends, at, side="right"), last)
    own = palette[bands.colours[band]]
    if not bands.blended or not last:
        return own
    starts = ends - bands.lengths
    reach = bands.blended * np.minimum(bands.lengths[:-1], bands.lengths[1:]) / 2
    back, on = np.concatenate([[0.0], reach]), np.concatenate([reach, [0.0]])
    before, after = np.maximum(band - 1, 0), np.minimum(band + 1, last)
    into = np.clip((starts + back)[band] - at, 0, None) / np.maximum(2 * back[band], 1e-12)
    onto = np.clip(at - (ends - on)[band], 0, None) / np.maximum(2 * on[band], 1e-12)
    earlier, later = palette[bands.colours[before]], palette[bands.colours[after]]
    into, onto = into[..., None], onto[..., None]
    return np.asarray((1 - into - onto) * own + into * earlier + onto * later)
