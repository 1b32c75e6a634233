"""A simulated camera: photos of yarn beside a scale, from its true geometry, for the demo and for tests.

It knows nothing of how photos are measured. What it draws is a picture that is hard in the ways real ones are: grounds
with a grain, a shadow, a halo, light from a side, blur, noise and a tilt.
"""

from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray
from PIL import Image, ImageDraw
from scipy.ndimage import gaussian_filter

from pebble_wheel.drawing.dress import Dress
from pebble_wheel.drawing.paths import fastest, strands_straight
from pebble_wheel.drawing.tubes import Tube
from pebble_wheel.mechanics.arrays import FloatArray
from pebble_wheel.mechanics.photo.scale import SQUARE
from pebble_wheel.mechanics.strand.state import Made

Ground = Literal["plain", "cloth", "wood"]
Mark = Literal["ruler", "square", "none"]

FINER = 2
"""Points to a pixel before the lens blurs them."""

FIBRES, FIBRE_FINE = 4096, 22.0
"""Of a table of fibres across a strand, and how many lie in its thickness."""


@dataclass(frozen=True)
class Scene:
    """What lies before the camera, and how it looks."""

    px_per_mm: float
    seed: int = 1
    width: int = 1200
    height: int = 800
    ground: Ground = "plain"
    shade: float = 0.9
    """Of the ground, 0 black to 1 white."""
    mark: Mark = "ruler"
    tilt: float = 0.0
    """Of the yarn in the picture, radians."""
    halo: float = 0.0
    """How far fibres stand off, in thicknesses of the yarn."""
    light: float = 0.6
    """From which side: 0 from above the yarn in the picture, 1 from the front."""
    shadow: float = 0.25
    """How dark the shadow of the yarn is."""
    blur: float = 0.8
    """Pixels, a standard deviation."""
    noise: float = 0.012
    carded: float = 0.3
    """How much fibres cross."""


@dataclass(frozen=True)
class Truth:
    """What is in a photo."""

    turns_per_m: float
    """Signed, Z above zero; of the last step."""
    apparent: float
    """Mean width of its silhouette [mm]."""
    enveloping: float
    """Between its outermost edges over a turn [mm]."""
    px_per_mm: float
    tilt: float


def photo_of(made: Made, dress: Dress, scene: Scene) -> tuple[NDArray[np.uint8], Truth]:
    """Return a photo, shape (height, width, 3), and what is in it."""
    chance = np.random.default_rng(scene.seed)
    scale = scene.px_per_mm
    tubes = _tubes(made, dress, scene)
    whole = [tube for tube in tubes if len(tube.x) == max(len(each.x) for each in tubes)]  # what hangs off is no edge
    top = np.max([tube.y + tube.width / 2 for tube in whole], axis=0)
    foot = np.min([tube.y - tube.width / 2 for tube in whole], axis=0)
    truth = Truth(
        float(made.state.twist_now),
        float((top - foot).mean()) / scale,
        float(top.max() - foot.min()) / scale,
        scale,
        scene.tilt,
    )
    middle = scene.width / 2, scene.height * YARN_AT
    picture = _grounded(scene, chance)
    ink, cover = _laid(tubes, scene, chance, middle, 1.3 * max(abs(top).max(), abs(foot).max()) + 3)
    thick = truth.enveloping * scale
    away = gaussian_filter(np.roll(cover, int(0.25 * thick), 0), 0.2 * thick)
    picture = picture * (1 - scene.shadow * away[..., None])
    picture = picture * (1 - cover[..., None]) + ink
    picture = _marked(_haloed(picture, tubes, scene, chance, middle), scene)
    picture = gaussian_filter(picture, (scene.blur, scene.blur, 0)) if scene.blur else picture
    slant = 1 + SLANT * chance.uniform(-1, 1) * np.linspace(-1, 1, scene.width)[None, :, None]
    picture = picture * slant + chance.normal(0, scene.noise, picture.shape)
    return (255 * np.clip(picture, 0, 1)).round().astype(np.uint8), truth


YARN_AT, SLANT = 0.4, 0.1
"""Where down the picture the yarn lies, and how unevenly it is lit at the most."""


def _laid(
    tubes: list[Tube], scene: Scene, chance: np.random.Generator, middle: tuple[float, float], reach: float
) -> tuple[FloatArray, FloatArray]:
    """Return the yarn's own light at every pixel, and how much of the pixel it covers."""
    y, x = np.mgrid[: scene.height * FINER, : scene.width * FINER].astype(np.float32) / FINER
    cos, sin = np.cos(scene.tilt), np.sin(scene.tilt)
    v = (y - middle[1]) * cos - (x - middle[0]) * sin
    near = np.abs(v) < reach
    u = (x[near] - middle[0]) * cos + (y[near] - middle[1]) * sin
    colour, depth = _strands(tubes, u, v[near], chance, scene)
    ink, cover = np.zeros((*v.shape, 3), np.float32), np.zeros(v.shape, np.float32)
    ink[near], cover[near] = colour, np.isfinite(depth)
    shape = scene.height, FINER, scene.width, FINER
    return ink.reshape(*shape, 3).mean(axis=(1, 3)), cover.reshape(shape).mean(axis=(1, 3))


def _tubes(made: Made, dress: Dress, scene: Scene) -> list[Tube]:
    """Return strands in pixels, x from the middle of the picture, y down the page."""
    half = 0.6 * np.hypot(scene.width, scene.height)
    step = min(1.0, 1000 * scene.px_per_mm / (60 * max(fastest(made), 1e-6)))
    return strands_straight(made, dress, np.arange(-half, half, step), scene.px_per_mm, 500.0)


def _strands(
    tubes: list[Tube], u: FloatArray, v: FloatArray, chance: np.random.Generator, scene: Scene
) -> tuple[FloatArray, FloatArray]:
    """Return the colour of every point of the yarn, and how near it is; minus infinity beside it."""
    nearest = np.full(u.shape, -np.inf)
    colour = np.zeros((*u.shape, 3))
    front = np.array([0.0, -np.sqrt(1 - scene.light**2), scene.light + 0.3])
    front /= np.linalg.norm(front)
    reach = max(float(np.max(tube.depth + tube.width / 2)) for tube in tubes)
    for tube in tubes:
        middle, radius = np.interp(u, tube.x, tube.y), np.interp(u, tube.x, tube.width) / 2
        slope = np.interp(u, tube.x, np.gradient(tube.y, tube.x))
        off = (v - middle) / np.sqrt(1 + slope**2)
        within = np.abs(off) < radius
        share = np.clip(off / radius, -1, 1)
        rise = np.sqrt(1 - share**2)
        depth = np.where(within, np.interp(u, tube.x, tube.depth) + radius * rise, -np.inf)
        front_of = depth > nearest
        shine = np.clip(share * front[1] + rise * front[2], 0, 1)
        lean = np.interp(u, tube.x, tube.lean if tube.lean is not None else np.zeros_like(tube.x))
        fibre = _fibres(chance, u, np.arcsin(share) * radius, radius, lean, scene.carded)
        deep = np.clip((depth + 0.3 * reach) / (1.3 * reach), 0, 1)
        level = (0.35 + 0.65 * shine) * (0.55 + 0.45 * deep) * fibre
        own = _colours(tube, u)
        colour[front_of] = (own * level[:, None])[front_of]
        nearest[front_of] = depth[front_of]
    return colour, nearest


def _fibres(
    chance: np.random.Generator, u: FloatArray, arc: FloatArray, radius: FloatArray, lean: FloatArray, carded: float
) -> FloatArray:
    """Return how light fibres are on a strand: streaks along them, with a few that cross."""
    table = gaussian_filter(chance.normal(0, 1, FIBRES), 1.0, mode="wrap")
    shine = np.zeros(u.shape)
    for turn, share in ((0.0, 1.0), (0.35, carded * 0.6), (-0.3, carded * 0.6)):
        across = (arc * np.cos(lean + turn) - u * np.sin(lean + turn)) / radius * FIBRE_FINE / 2
        long = np.floor((u * np.cos(lean) + arc * np.sin(lean)) / (14 * radius)).astype(int)
        shine += share * table[(np.floor(across).astype(int) + 997 * long) % FIBRES]
    return 1 + 0.16 * shine / (1 + carded)


def _colours(tube: Tube, u: FloatArray) -> FloatArray:
    """Return the colour of a strand at places along it, as light."""
    table = np.array([[int(each[at : at + 2], 16) / 255 for at in (1, 3, 5)] for each in tube.colours])
    place = 0 if tube.tint is None else np.interp(u, tube.x, tube.tint).round().astype(int)
    return np.broadcast_to(table[place], (*u.shape, 3))


def _grounded(scene: Scene, chance: np.random.Generator) -> FloatArray:
    """Return the ground: plain, a cloth, or the grain of wood."""
    y, x = np.mgrid[: scene.height, : scene.width].astype(np.float32)
    shade, scale = np.full(x.shape, scene.shade), scene.px_per_mm
    match scene.ground:
        case "plain":
            shade += 0.01 * gaussian_filter(chance.normal(0, 1, x.shape), 2)
        case "cloth":
            pitch = 0.7 * scale
            shade += 0.05 * np.sin(2 * np.pi * x / pitch) * np.sin(2 * np.pi * y / pitch)
        case "wood":
            grain = gaussian_filter(chance.normal(0, 1, x.shape), (0.12 * scale, min(6 * scale, 60)))
            shade += 0.05 * grain / max(float(grain.std()), 1e-9)
    return np.clip(shade, 0, 1)[..., None] * np.array(WARM if scene.shade > HALF else COOL)


WARM, COOL, HALF = (1.0, 0.97, 0.92), (0.9, 0.95, 1.0), 0.5
"""Tint of light and dark grounds."""


def _haloed(
    picture: FloatArray,
    tubes: list[Tube],
    scene: Scene,
    chance: np.random.Generator,
    middle: tuple[float, float],
) -> FloatArray:
    """Return the picture with fibres that stand off the yarn."""
    if not scene.halo:
        return picture
    image = Image.new("L", (picture.shape[1], picture.shape[0]))
    pen = ImageDraw.Draw(image)
    cos, sin = np.cos(scene.tilt), np.sin(scene.tilt)
    thick = max(float(np.max(np.abs(tube.y) + tube.width / 2)) for tube in tubes)
    for _ in range(int(HAIRS * np.ptp(tubes[0].x) / scene.px_per_mm)):
        begin = chance.uniform(tubes[0].x[0], tubes[0].x[-1])
        side, long = chance.choice([-1, 1]), chance.exponential(2 * scene.halo * thick)
        bend = chance.uniform(-2, 2, 3)
        way = []
        for share in np.linspace(0, 1, 7):
            u = begin + long * (bend[0] * share + bend[1] * share**2)
            v = side * (0.6 * thick + long * share * (1 - 0.4 * abs(bend[2]) * share))
            way.append((middle[0] + u * cos - v * sin, middle[1] + u * sin + v * cos))
        pen.line(way, fill=int(chance.uniform(60, 150)), width=max(1, round(0.02 * scene.px_per_mm)))
    alpha = np.asarray(image)[..., None] / 255
    first = tubes[0].colours[0]
    own = np.array([int(first[at : at + 2], 16) / 255 for at in (1, 3, 5)]) * 0.95
    return picture * (1 - alpha) + own * alpha


NEAR, ROUND_SQUARE = 60, 1.27
"""Pixels that a card keeps from the yarn, and how large it is for its square; where it has no room a ruler lies."""

HAIRS = 9
"""Fibres that stand off a mm of yarn."""


def _marked(picture: FloatArray, scene: Scene) -> FloatArray:
    """Return the picture with a scale beside the yarn: a ruler's millimetres, or a black square."""
    high, wide, scale = scene.height, scene.width, scene.px_per_mm
    if scene.mark == "none":
        return picture
    image = Image.new("L", (wide, high), 255)
    pen = ImageDraw.Draw(image)
    paper = np.zeros((high, wide), bool)
    room = (1 - YARN_AT) * high - abs(scene.tilt) * wide / 2 - NEAR
    if scene.mark == "ruler" or ROUND_SQUARE * SQUARE * scale > room:
        edge = int(high * 0.8)
        paper[edge:] = True
        for number in range(int(wide / scale) + 1):
            long = 5.0 if number % 10 == 0 else 3.5 if number % 5 == 0 else 2.0
            left = number * scale
            pen.rectangle([left, edge, left + max(0.12 * scale, 1), edge + long * scale], fill=25)
    else:
        side = round(SQUARE * scale)
        left, up = wide * 0.06, high * 0.99 - side
        pad = 0.25 * side
        paper[int(max(up - pad, 0)) :, int(max(left - pad, 0)) : int(left + side + pad)] = True
        pen.rectangle([round(left), round(up), round(left) + side - 1, round(up) + side - 1], fill=20)
    ink = np.asarray(image)[..., None] / 255 * 0.93
    return np.where(paper[..., None], ink, picture)
