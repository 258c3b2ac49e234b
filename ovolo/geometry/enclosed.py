"""What a closed curve in plan encloses: signed area and centre, exact for lines, arcs and cubics
(Green's theorem, by Gauss-Legendre integration that loses nothing on them)."""

from __future__ import annotations

import math

import numpy as np

from ovolo.geometry.curve import Arc, Curve, Piece, Points

_NODES, _WEIGHTS = np.polynomial.legendre.leggauss(12)
_QUARTER = math.pi / 4


def moments(curve: Curve) -> Points:
    """The area in mm² (positive where the curve runs anticlockwise), and the integrals of x and y
    over it in mm³, as (3,). They are taken about the start of the curve, so that nothing is lost
    far from the origin, and moved from there."""
    origin = curve.start[:2]
    area, mx, my = np.sum([_of_piece(piece, origin) for piece in curve.pieces], axis=0)
    return np.array([area, mx + area * origin[0], my + area * origin[1]])


def _of_piece(piece: Piece, origin: Points) -> Points:
    parts = math.ceil(abs(piece.sweep) / _QUARTER) if isinstance(piece, Arc) else 1
    edges = np.linspace(0.0, 1.0, parts + 1)
    half = 0.5 / parts
    places = (edges[:-1, None] + half * (1 + _NODES)).reshape(-1)
    weights = np.tile(_WEIGHTS * half, parts)
    x, y = (piece.at(places)[:, :2] - origin).T
    dx, dy = piece.slope(places)[:, :2].T
    turn = x * dy - y * dx
    return np.array([weights @ turn / 2, weights @ (x * turn) / 3, weights @ (y * turn) / 3])
