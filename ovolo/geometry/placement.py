"""Placements: 4x4 matrices acting on columns, single ones (4, 4) or many at once (n, 4, 4)."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from ovolo.geometry.same import SAME_SHARE
from ovolo.geometry.vectors import cross_product
from ovolo.quantities.circular import cosine, sine

Matrix = NDArray[np.float64]
Values = Any
"""A float, or an array of n floats; a point (3,), or n points (n, 3)."""


IDENTITY: Matrix = np.eye(4)
IDENTITY.flags.writeable = False


def moved(offset: Values) -> Matrix:
    """The shift by a vector (3,), or by n of them (n, 3).

    >>> moved(np.array([3.0, 4.0, 0.0]))[:3, 3]
    array([3., 4., 0.])
    """
    offset = np.asarray(offset, dtype=float)
    matrix = np.zeros((*offset.shape[:-1], 4, 4))
    matrix[...] = IDENTITY
    matrix[..., :3, 3] = offset
    return matrix


def scaled(factors: Values) -> Matrix:
    """The stretch along x, y and z by factors (3,), or by n of them (n, 3).

    >>> float(determinant(scaled(np.array([2.0, 3.0, 4.0]))))
    24.0
    """
    factors = np.asarray(factors, dtype=float)
    matrix = np.zeros((*factors.shape[:-1], 4, 4))
    for axis in range(3):
        matrix[..., axis, axis] = factors[..., axis]
    matrix[..., 3, 3] = 1.0
    return matrix


def turned(angle: Values, about: Values, at: Values) -> Matrix:
    """The rotation by `angle` (radians, anticlockwise seen against `about`) around the axis
    through `at`. Rodrigues' formula: R = cI + s[a]x + (1 - c) a aᵀ.

    >>> quarter = turned(np.pi / 2, np.array([0.0, 0.0, 1.0]), np.zeros(3))
    >>> np.round(applied(quarter, np.array([[2.0, 0.0, 0.0]])), 9).tolist()
    [[0.0, 2.0, 0.0]]
    """
    angle, axis = np.asarray(angle, dtype=float), np.asarray(about, dtype=float)
    axis = axis / np.linalg.norm(axis, axis=-1, keepdims=True)
    c, s = cosine(angle)[..., None, None], sine(angle)[..., None, None]
    cross = np.zeros((*axis.shape[:-1], 3, 3))
    cross[..., 0, 1], cross[..., 0, 2] = -axis[..., 2], axis[..., 1]
    cross[..., 1, 0], cross[..., 1, 2] = axis[..., 2], -axis[..., 0]
    cross[..., 2, 0], cross[..., 2, 1] = -axis[..., 1], axis[..., 0]
    outer = axis[..., :, None] * axis[..., None, :]
    rotation = c * np.eye(3) + s * cross + (1 - c) * outer
    centre = np.asarray(at, dtype=float)
    shift = centre - np.einsum("...ij,...j->...i", rotation, centre)
    matrix = np.zeros((*rotation.shape[:-2], 4, 4))
    matrix[..., :3, :3] = rotation
    matrix[..., :3, 3] = shift
    matrix[..., 3, 3] = 1.0
    return matrix


def mirrored(across: Values, at: Values) -> Matrix:
    """The reflection in the plane through `at` square to `across`: I - 2 n nᵀ (Householder).

    >>> float(determinant(mirrored(np.array([1.0, 0.0, 0.0]), np.zeros(3))))
    -1.0
    """
    normal = np.asarray(across, dtype=float)
    normal = normal / np.linalg.norm(normal)
    matrix = np.eye(4)
    matrix[:3, :3] -= 2 * np.outer(normal, normal)
    matrix[:3, 3] = 2 * (np.asarray(at, dtype=float) @ normal) * normal
    return matrix


def applied(matrix: Matrix, points: NDArray[np.float64]) -> NDArray[np.float64]:
    """Points (m, 3) placed by one matrix (4, 4)."""
    placed: NDArray[np.float64] = points @ matrix[:3, :3].T + matrix[:3, 3]
    return placed


def determinant(matrix: Matrix) -> Values:
    """By how much volumes grow; one value a matrix."""
    a, b, c = (matrix[..., :3, column] for column in range(3))
    return np.einsum("...i,...i->...", a, cross_product(b, c))


def keeps_lengths(matrix: Matrix) -> bool:
    """Whether a placement (4, 4) only moves, turns and mirrors."""
    linear = matrix[:3, :3]
    gram = linear.T @ linear
    return bool(np.abs(gram - np.eye(3)).max() < SAME_SHARE)
