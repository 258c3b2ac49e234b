"""Units and dimensions. Conversions are checked against Pint in tests/outside."""

import pytest

from ovolo.problems import Failure
from ovolo.quantities.dimension import AREA, LENGTH, base_units, dimension_name, product
from ovolo.quantities.units import UNITS, unit_named


def test_compound_units() -> None:
    density = unit_named("kg/m^3")
    assert density.size == pytest.approx(1e-9)
    assert dimension_name(density.dimension) == "density"
    assert unit_named("mm²").dimension == AREA
    assert unit_named("m/s").size == 1000


def test_an_unknown_unit_proposes_the_nearest() -> None:
    with pytest.raises(Failure) as caught:
        unit_named("mmm")
    assert caught.value.hint == "did you mean `mm`?"


def test_dimensions_without_a_name_are_said_in_units() -> None:
    odd = product(product(LENGTH, LENGTH), product(AREA, UNITS["kg"].dimension))
    assert dimension_name(odd) == "quantity in mm^4·kg"
    assert base_units(unit_named("rad/s").dimension) == "rad/s"
