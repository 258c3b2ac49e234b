"""Pictures under the drawing: read, laid out by two points, refused in words."""

import io
import math
from collections.abc import Callable

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from PIL import Image, ImageOps

from ovolo.formats.attached import look, read_files
from ovolo.formats.image import read_image
from ovolo.geometry.placement import applied
from ovolo.geometry.underlay import unplaced
from ovolo.outcome.outcome import Outcome, outcome_of
from ovolo.outcome.scene import scene_of
from ovolo.problems import Failure
from tests.outcome.test_scene import unpacked


def picture(kind: str = "PNG", size: tuple[int, int] = (400, 300)) -> bytes:
    made = io.BytesIO()
    Image.new("RGB", size, "#fffdf5").save(made, kind)
    return made.getvalue()


def laid(*lines: str) -> Outcome:
    return outcome_of("\n".join(lines), tables=read_files({"plan.png": picture()}))


@given(
    st.tuples(*[st.floats(0, 400)] * 2), st.tuples(*[st.floats(0, 400)] * 2),
    st.floats(1, 1e5), st.tuples(*[st.floats(-1e4, 1e4)] * 2), st.floats(-3, 3),
)  # fmt: skip
def test_two_points_lie_where_they_are_put_and_so_far_apart(
    a: tuple[float, ...], b: tuple[float, ...], distance: float, place: tuple[float, ...], turn: float
) -> None:  # fmt: skip
    if math.dist(a, b) < 1:
        return
    start, end, at = (np.array([*p, 0.0]) for p in (a, b, place))
    lying = unplaced("plan.png", 400, 300, "").calibrated(start, end, distance, at, turn)
    first, second = applied(lying.matrix, np.array([start, end]))
    assert first == pytest.approx(at, abs=1e-6)
    assert np.linalg.norm(second - first) == pytest.approx(distance)
    drawn = second - first
    # On the picture y points down.
    seen = math.atan2(a[1] - b[1], b[0] - a[0])
    assert (
        math.atan2(drawn[1], drawn[0])
        == pytest.approx(math.remainder(seen + turn, 2 * math.pi), abs=1e-6)
        or abs(abs(math.atan2(drawn[1], drawn[0])) - math.pi) < 1e-6
    )


def test_a_line_of_the_sheet_lays_a_picture_out() -> None:
    outcome = laid(
        "input span = 5 m from 1 m to 9 m",
        'file plan = "plan.png" from (10, 20) to (110, 20) is span at (1 m, 2 m) turn 90° strength 40 %',
        "size = plan.width",
        "corner = plan.at",
        "grid = plan.pixel",
        "way = plan.turn",
    )
    assert not outcome.problems
    values = {n: v["value"] for n, v in outcome.as_json()["values"].items() if n != "plan"}
    assert values["size"] == pytest.approx(20_000) and values["grid"] == pytest.approx(50)
    assert values["way"] == pytest.approx(90)
    assert values["corner"][:2] == pytest.approx([1000 + 280 * 50, 2000 - 10 * 50])
    (underlay,) = unpacked(scene_of(outcome))[0]["underlays"]
    assert underlay["strength"] == 0.4 and underlay["size"] == [400, 300]
    assert underlay["corners"][0][:2] == pytest.approx(values["corner"][:2])


def test_a_picture_that_nothing_is_said_of_has_a_mm_to_a_pixel() -> None:
    outcome = laid('file plan = "plan.png"', "w = plan.width", "at = plan.at")
    assert outcome.as_json()["values"]["w"]["value"] == 400
    assert outcome.as_json()["values"]["at"]["value"] == [0, 0, 0]


@pytest.mark.parametrize(
    ("clause", "said"),
    [
        ("from (5, 5) to (5, 5) is 1 m", "both points of the picture are the same"),
        ("from (5, 5) to (9, 5) is 0 m", "the true distance is 0 mm"),
        ("from (5, 5) to (9, 5) is 1 m strength 140 %", "the strength is 1.4"),
        ("from (5 mm, 5 mm) to (9 mm, 5 mm) is 1 m", "the start of a picture must be a point"),
        ("from (5, 5) to (9, 5) is 4", "the distance of a picture must be a length"),
        ("from (5, 5) to (9, 5) is 1 m turn 4", "the turn of a picture must be an angle"),
        ("from (5, 5) to (9, 5) is 1 m turn 4° turn 5°", "gives its turn twice"),
    ],
)
def test_a_picture_that_cannot_lie_so(clause: str, said: str) -> None:
    (problem,) = laid(f'file plan = "plan.png" {clause}').problems
    assert said in problem.message


def test_only_pictures_are_laid_out() -> None:
    files = read_files({"bolts.csv": b"size,hole [mm]\nM8,9\n"})
    (problem,) = outcome_of(
        'file b = "bolts.csv" from (1, 1) to (2, 2) is 1 m', tables=files
    ).problems
    assert "only a picture is laid out" in problem.message


def test_jpeg_is_read_too_and_shown_by_its_size() -> None:
    read = read_image(picture("JPEG", (64, 48)), "photo.jpg")
    assert (read.width, read.height) == (64, 48)
    assert look(read, 5).rows == [["64", "48"]]


@pytest.mark.parametrize("format", ["JPEG", "PNG"])
@pytest.mark.parametrize("orientation", range(1, 9))
def test_a_photograph_is_as_wide_as_it_is_seen(format: str, orientation: int) -> None:
    """Exif 2.3, 4.6.4: what Pillow makes of it by turning its pixels."""
    image = Image.new("RGB", (64, 48))
    tags = image.getexif()
    tags[0x0112] = orientation
    file = io.BytesIO()
    image.save(file, format, exif=tags)
    seen = ImageOps.exif_transpose(Image.open(io.BytesIO(file.getvalue())))
    read = read_image(file.getvalue(), f"a.{format.lower()}")
    assert (read.width, read.height) == seen.size


@pytest.mark.parametrize(
    ("data", "said"),
    [
        (lambda: b"GIF89a", "cannot be read as a picture"),
        (lambda: picture()[:200], "cannot be read as a picture"),
        (lambda: picture("JPEG"), "holds JPEG, not PNG"),
        (lambda: b"\x89PNG" + b"0" * 8_000_001, "at most 8,000,000 are taken"),
        (lambda: picture(size=(8000, 5001)), "at most 40,000,000 are taken"),
    ],
)
def test_what_is_no_picture_is_refused(data: Callable[[], bytes], said: str) -> None:
    with pytest.raises(Failure, match=said):
        read_image(data(), "a.png")
