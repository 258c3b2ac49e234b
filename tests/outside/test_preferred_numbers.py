"""ISO 3 preferred numbers. The R5 and R10 series are recalled from memory; each rounded value
must also lie within 1.3 % of the exact term of its geometric series, as the standard says."""

import pytest

from tests.sheets import value

R10 = [1.00, 1.25, 1.60, 2.00, 2.50, 3.15, 4.00, 5.00, 6.30, 8.00]


def test_r10_and_r5() -> None:
    assert value("[preferred(x * 0.97) for x in " + str(R10) + "]") == R10
    assert value('[preferred(x * 0.97, "R5") for x in ' + str(R10[::2]) + "]") == R10[::2]
    assert value("preferred(1.001)") == 1.25 and value('preferred(1.001, "R5")') == 1.6


@pytest.mark.parametrize(("series", "count"), [("R5", 5), ("R10", 10), ("R20", 20), ("R40", 40)])
def test_every_series_is_nearly_geometric(series: str, count: int) -> None:
    for k in range(count):
        exact = 10 ** (k / count)
        found = value(f'preferred({exact * 0.985:.6f}, "{series}")')
        assert found == pytest.approx(exact, rel=0.013)


def test_a_preferred_number_is_its_own_and_decades_repeat() -> None:
    for number in R10:
        for decade in (0.001, 1, 1000):
            assert value(f"preferred({number * decade:.6g})") == pytest.approx(number * decade)


def test_lengths_are_taken_in_mm() -> None:
    assert value("preferred(37 mm)") == 40
    assert value('preferred(0.33 m, "R20")') == 355
