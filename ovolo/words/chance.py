"""Chance: the same on every machine, for it depends only on the arguments and the seed.

Numbers are scattered by the finaliser of SplitMix64 (Steele, Lea and Flood, Fast Splittable
Pseudorandom Number Generators, 2014), on the bits of the arguments.
"""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from ovolo.problems import Failure
from ovolo.words.registry import word

Values = Any
_Bits = NDArray[np.uint64]


def _scattered(bits: _Bits) -> _Bits:
    bits = bits + np.uint64(0x9E3779B97F4A7C15)
    bits = (bits ^ (bits >> np.uint64(30))) * np.uint64(0xBF58476D1CE4E5B9)
    bits = (bits ^ (bits >> np.uint64(27))) * np.uint64(0x94D049BB133111EB)
    return bits ^ (bits >> np.uint64(31))


def _bits(values: Values) -> _Bits:
    # Adding 0.0 makes -0.0 the same as 0.0.
    return np.atleast_1d(np.asarray(values, dtype=float) + 0.0).view(np.uint64)


def uniform(seed: float, *keys: Values) -> NDArray[np.float64]:
    """Numbers from 0 to 1 (1 left out), each depending on the seed and its keys; at least 1-d."""
    bits = _scattered(_bits(seed))
    for key in keys:
        bits = _scattered(bits ^ _bits(key))
    return (bits >> np.uint64(11)).astype(float) * 2.0**-53


@word(
    "number, Q, Q -> Q", "number -> number",
    example="random(3, 1 m, 1 m)", gives="1 m", elementwise=True, seeded=True,
)  # fmt: skip
def random(i: Values, lo: Values = 0.0, hi: Values = 1.0, seed: float = 0.0) -> Values:
    """A value between lo and hi (0 and 1 where they are not said), by chance but always the same for
    the same i and seed.

    i: which value: another number gives another one
    lo: the least value
    hi: the greatest value
    """
    share = uniform(seed, i)
    single = np.ndim(i) == np.ndim(lo) == np.ndim(hi) == np.ndim(seed) == 0
    value = lo + (hi - lo) * share
    return float(value[0]) if single else value


@word(
    "point Q, Q -> number", "along: Q, Q -> number",
    example="noise((0 m, 0 m), 1 m) < 1", gives="yes", elementwise=True, seeded=True,
)  # fmt: skip
def noise(p: Values = None, size: Values = 1.0, along: Values = None, seed: float = 0.0) -> Values:
    """A smooth chance value between -1 and 1 at a point, or along a line, whose hills are
    about `size` apart.

    p: where: a point in plan or in space
    size: how far the hills are apart
    along: where along a line, instead of a point
    """
    if np.any(np.less_equal(size, 0)):
        raise Failure("the size of the noise must be more than 0", "for example noise(p, 500 mm)")
    if along is not None:
        p = np.stack(np.broadcast_arrays(along, 0.0, 0.0), axis=-1)
    scaled = p / np.asarray(size, dtype=float)[..., None]
    value = _smooth(np.atleast_2d(scaled), seed)
    return value if np.ndim(scaled) > 1 else float(value[0])


def _smooth(points: NDArray[np.float64], seed: float) -> NDArray[np.float64]:
    """Values at the corners of a unit lattice, blended by 3t² - 2t³ along each axis."""
    cell = np.floor(points)
    within = points - cell
    weight = within * within * (3 - 2 * within)
    total = np.zeros(len(points))
    for corner in range(8):
        step = np.array([corner & 1, corner >> 1 & 1, corner >> 2 & 1], dtype=float)
        lattice = cell + step
        share = np.prod(np.where(step == 1, weight, 1 - weight), axis=1)
        total += share * (2 * uniform(seed, lattice[:, 0], lattice[:, 1], lattice[:, 2]) - 1)
    return total


@word(
    "list T, number? -> list T",
    example="sorted(shuffled([3, 1, 2]))", gives="[1, 2, 3]", seeded=True, defaults={"i": "0"},
)  # fmt: skip
def shuffled(xs: Values, i: float = 0.0, seed: float = 0.0) -> Values:
    """The list in an order by chance; another i gives another order.

    xs: the list
    i: which order: another number gives another one
    """
    order = np.argsort(uniform(seed, i, np.arange(len(xs), dtype=float)), kind="stable")
    return [xs[at] for at in order] if isinstance(xs, list) else xs[order]


@word("list T, number -> T", example="pick([5, 5, 5], 7)", gives="5", seeded=True)
def pick(xs: Values, i: float, seed: float = 0.0) -> Any:
    """An item of the list by chance, always the same for the same i and `seed`.

    xs: the list to take from
    i: which pick: another number gives another one
    """
    if len(xs) == 0:
        raise Failure("there is nothing to pick from: the list is empty")
    return xs[int(uniform(seed, i)[0] * len(xs))]
