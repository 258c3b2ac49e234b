"""ISO 216: the trimmed width of A-n is floor(1000 / 2^((2n + 1) / 4) + 0.2) in mm; the widths
841 594 420 297 210 148 105 74 52 37 26 are also recalled from memory."""

from tests.sheets import value


def test_the_a_series() -> None:
    widths = value("[floor(1000 / 2^((2*n + 1) / 4) + 0.2) for n in 0 .. 10]")
    assert widths == [841, 594, 420, 297, 210, 148, 105, 74, 52, 37, 26]
