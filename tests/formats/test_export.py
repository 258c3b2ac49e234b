"""Writing parts to files."""

import pytest

from ovolo.formats.export import exported
from ovolo.problems import Failure
from tests.sheets import run


def test_all_solid_parts_go_into_one_file() -> None:
    outcome = run("part a = box(1 m, 1 m, 1 m)", "part b = a.move(2 m)", "part r = rect(1 m, 1 m)")
    data = exported(outcome, "all.STL")
    assert int.from_bytes(data[80:84], "little") == 24
    assert not data.startswith(b"solid")


@pytest.mark.parametrize(
    ("names", "file_name", "message"),
    [
        (["r"], "x.stl", "the part `r` is not solid"),
        (["none"], "x.stl", "the part `none` has no items"),
        (["bad"], "x.stl", "the part `bad` has a problem: division by zero"),
        (["aa"], "x.stl", "there is no part `aa`"),
        ([], "x.pdf", "ends in no format"),
    ],
)
def test_what_cannot_be_written_says_why(names: list[str], file_name: str, message: str) -> None:
    outcome = run(
        "part a = box(1 m, 1 m, 1 m)", "part r = rect(1 m, 1 m)", "part none = a when 1 > 2",
        "part bad = box(1 m, 1 m, 1 m / 0)",
    )  # fmt: skip
    with pytest.raises(Failure) as caught:
        exported(outcome, file_name, names)
    assert message in caught.value.message


def test_a_study_without_solids_cannot_be_written() -> None:
    with pytest.raises(Failure, match="no solid parts"):
        exported(run("a = 3"), "x.stl")
