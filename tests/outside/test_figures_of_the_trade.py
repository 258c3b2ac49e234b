"""Figures from standards and handbooks, worked out by sheets.

Each test names its source. "From memory" marks figures recalled, not looked up; "common
practice" has no source.
"""

import math

import pytest
from scipy.integrate import quad

from tests.sheets import demo_outcome, value


def test_horizontal_sundial() -> None:
    """tan(line) = sin(latitude) tan(15° h); at 52° for h = 1..5. Waugh, Sundials, 1973, gives
    the formula; the figures are recomputed."""
    found = value("[atan(sin(52°) * tan(15° * h)) for h in 1 .. 5]")
    assert found == pytest.approx([11.92, 24.46, 38.24, 53.77, 71.22], abs=0.005)


def test_the_demo_sundial_keeps_that_table() -> None:
    settings = {"corrected": False}
    values = demo_outcome("sundial", settings).as_json()["values"]
    by_hour = dict(zip(values["hours"]["value"], values["angles"]["value"], strict=True))
    for h, angle in enumerate([11.92, 24.46, 38.24, 53.77, 71.22], start=1):
        assert by_hour[12 + h] == pytest.approx(angle, abs=0.005)
        assert by_hour[12 - h] == pytest.approx(-angle, abs=0.005)
    assert by_hour[18] == pytest.approx(90)


def test_involute_and_base_tangent() -> None:
    """ISO 21771: inv a = tan a - a, inv 20° = 0.0149044; base tangent over k teeth
    W = m cos a ((k - 1/2) π + z inv a) = 7.6604 for m = 1, z = 20, k = 3. From memory."""
    inv = "inv(a) = tan(a) - rad(a)"
    assert value("inv(20°)", inv) == pytest.approx(0.0149044, abs=5e-8)
    tangent = value("1 mm * cos(20°) * ((3 - 0.5) * pi + 20 * inv(20°))", inv)
    assert tangent == pytest.approx(7.6604, abs=5e-5)
    assert value("root(a -> inv(a) - 0.0149044, 1°, 60°)", inv) == pytest.approx(20, abs=1e-4)


def test_equal_temperament() -> None:
    """ISO 16: a' is 440 Hz; twelve equal steps to the octave; middle C 261.63 Hz from memory."""
    notes = value("[440 * 2^(n / 12) for n in -9 .. 3]")
    assert notes[0] == pytest.approx(261.6256, abs=5e-5)
    assert notes[12] == pytest.approx(2 * notes[0])


def test_quadratic_residue_sequence() -> None:
    """Schroeder, Diffuse sound reflection by maximum-length sequences / quadratic residues,
    1979: n² mod 7 is 0 1 4 2 2 4 1 (from memory); depth = s c / (2 N f)."""
    values = demo_outcome("diffuser").as_json()["values"]
    assert values["sequence"]["value"] == [0, 1, 4, 2, 2, 4, 1]
    expected = [s * 343_000 / (2 * 7 * 500) for s in (0, 1, 4, 2, 2, 4, 1)]
    assert values["depths"]["value"] == pytest.approx(expected)


@pytest.mark.parametrize("prime", [5, 7, 11, 13, 17])
def test_the_cutting_list_holds_every_block(prime: int) -> None:
    outcome = demo_outcome("diffuser", {"prime": float(prime)})
    lines = outcome.as_json()["values"]["cut_list"]["value"]
    counted = sum(int(line.split(" x ")[0]) for line in lines)
    assert counted == outcome.parts["blocks"].count


def test_circle_segment() -> None:
    """Any machinist's handbook, r = 1, 60°: chord 1.00000, height 0.13397, arc 1.04720, area
    0.09059 (from memory); radius from chord and rise (c²/4 + h²) / 2h."""
    lines = ("r = 1 mm", "a = 60°", "chord = 2 * r * sin(a / 2)", "rise = r * (1 - cos(a / 2))")
    assert value("chord", *lines) == pytest.approx(1, abs=5e-6)
    assert value("rise", *lines) == pytest.approx(0.13397, abs=5e-6)
    assert value("r * rad(a)", *lines) == pytest.approx(1.04720, abs=5e-6)
    assert value("r^2 / 2 * (rad(a) - sin(a))", *lines) == pytest.approx(0.09059, abs=5e-6)
    assert value("(chord^2 / 4 + rise^2) / (2 * rise)", *lines) == pytest.approx(1)


def test_seed_head_spiral() -> None:
    """Vogel, A better way to construct the sunflower head, 1979: item n at n 137.508°, radius
    c √n (from memory). The golden angle is 360° (1 - 1/φ)."""
    golden = value("360° * (1 - 2 / (1 + sqrt(5)))")
    assert golden == pytest.approx(137.508, abs=5e-4)
    radii = value(
        "[sqrt(p.x^2 + p.y^2) for p in [polar(3 mm * sqrt(n), n * 137.508°) for n in 1 .. 50]]"
    )
    assert radii == pytest.approx([3 * math.sqrt(n) for n in range(1, 51)])


def test_wing_section_thickness() -> None:
    """NACA four-digit thickness (Abbott and von Doenhoff, Theory of Wing Sections): for 12 %,
    half-thickness in % of the chord at 10, 20 … 90 %. From memory."""
    formula = (
        "half(x) = 5 * 12 % * (0.2969*sqrt(x) - 0.1260*x - 0.3516*x^2 + 0.2843*x^3 - 0.1015*x^4)"
    )
    found = value("[100 * half(k / 10) for k in 1 .. 9]", formula)
    ordinates = [4.683, 5.738, 6.002, 5.803, 5.294, 4.563, 3.664, 2.623, 1.448]
    assert found == pytest.approx(ordinates, abs=1e-3)


def test_geodesic_chord_factors() -> None:
    """Two-frequency icosahedron: 0.54653 and 0.61803 (from memory)."""
    phi = ("phi = (1 + sqrt(5)) / 2", "edge = 2 / sqrt(1 + phi^2)")
    assert value("2 * sin(acos(1 - edge^2 / 2) / 4)", *phi) == pytest.approx(0.54653, abs=5e-6)
    assert value("2 * sin(36° / 2)", *phi) == pytest.approx(0.61803, abs=5e-6)


def test_common_practice() -> None:
    """Common practice, no source."""
    assert value("atan(2:12)") == pytest.approx(9.462, abs=5e-4)
    assert value("20 * 2 mm / pi") == pytest.approx(12.732, abs=5e-4)
    assert value("360° / 20") == pytest.approx(18)
    lines = ("l = 5 m", "a = 40°", "b = 60°")
    height = value("l * tan(a) * tan(b) / (tan(a) + tan(b))", *lines)
    top = height / math.tan(math.radians(40)) + height / math.tan(math.radians(60))
    assert top == pytest.approx(5000)
    assert value("[max(floor(l / 300 mm), 1) for l in 100 mm .. 1000 mm by 300 mm]") == [1, 1, 2, 3]


def test_an_integral_by_a_sheet_and_by_scipy() -> None:
    """The length of a parabola's arc: SciPy's quadrature beside a sum over 100,000 pieces."""
    exact, _ = quad(lambda x: math.sqrt(1 + 4 * x * x), 0, 1)
    pieces = "sum([sqrt(1 + 4 * ((k + 0.5) / n)^2) / n for k in 0 .. n - 1])"
    assert value(pieces, "n = 100000") == pytest.approx(exact, rel=1e-9)
