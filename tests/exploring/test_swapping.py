"""What a sheet makes of the studies it uses, and which other study would serve."""

import pytest

from ovolo.exploring.swapping import Swap, calls_of, swap
from ovolo.meaning.checked_sheet import checked_program
from ovolo.sheet.edits import with_title_followed, with_used_study
from ovolo.sheet.names import files_named, inputs_offered, studies_used

TURNED = 'study "Turned"\ninput height = 900 mm\ninput waist = 20 mm\ninput inner = 2 internal\nrise = height / 3\npart body = cylinder(waist, height)'


def serves(lines: str, other: str, present: str = TURNED) -> Swap:
    text = f'use b from "Turned"\n{lines}'
    return swap(text, "b", checked_program(present), "Other", checked_program(other))


def test_what_a_sheet_sets_and_reads() -> None:
    text = "\n".join(
        [
            'use b from "Turned"',
            'use c from "Other"',
            "x = b(800 mm, waist = 3 mm).rise",
            "tall = b(height = 2 m)",
            "y = tall.body",
            "part p = [b(waist = i * 1 mm).body for i in 1 .. 3]",
            "z = c(depth = 3 mm).nothing",
        ]
    )
    found = calls_of(text, "b")
    assert (found.line, found.inputs, found.positions) == (1, {"waist", "height"}, 1)
    assert found.read == {"rise", "body"}
    assert calls_of(text, "c").inputs == {"depth"} and calls_of(text, "d").inputs == set()


def test_names_that_a_sheet_calls_for() -> None:
    text = 'use b from "Turned"\nfile t = "t.csv"\nuse c from "A \\"b\\""\nused = 3 mm'
    assert studies_used(text) == {"b": "Turned", "c": 'A "b"'}
    assert files_named(text) == {"t.csv"}
    assert inputs_offered(TURNED) == ["height", "waist"], "what is internal is not offered"


@pytest.mark.parametrize(
    ("lines", "other", "expected"),
    [
        ("x = b(height = 1 m)", TURNED, {}),
        ("x = b(1 m)", TURNED.replace("waist", "girth"), {"extra": ("girth",), "without": ("waist",)}),
        ("x = b(height = 1 m)", TURNED.replace("height", "tall"), {"missing": ("height",), "extra": ("tall",)}),
        ("x = b(1 m)", TURNED.replace("height", "tall"), {"missing": ("height",), "extra": ("tall",)}),
        ("x = b(waist = 3 mm)", TURNED.replace("waist = 20 mm", "waist = 3").replace("cylinder(waist", "cylinder(waist * 1 mm"),
         {"misfits": ("waist, a number there",)}),
        ("x = b().rise", TURNED.replace("rise", "climb"), {"unread": ("rise",)}),
        ("x = b().checks_pass", TURNED, {}),
        ("x = b().height", TURNED, {}),
    ],
)  # fmt: skip
def test_what_is_missing_and_what_is_extra(
    lines: str, other: str, expected: dict[str, tuple[str, ...]]
) -> None:
    found = serves(lines, other)
    for name in ("missing", "misfits", "unread", "extra", "without"):
        assert getattr(found, name) == expected.get(name, ()), name
    assert found.fits == (not {"missing", "misfits", "unread"} & set(expected))
    assert found.as_json()["fits"] is found.fits and found.as_json()["title"] == "Other"


def test_a_study_that_is_gone_is_replaced_by_what_has_the_inputs_that_are_set() -> None:
    text = 'use b from "Gone"\nx = b(height = 1 m)'
    found = swap(text, "b", None, "Turned", checked_program(TURNED))
    assert found.fits and found.extra == () and found.without == ()


def test_a_use_is_pointed_at_another_study_and_nothing_else_changes() -> None:
    text = (
        'study "Turned"\nuse b from "Turned"   # the "usual" one\nx = "Turned"\nuse c from "Turned"'
    )
    assert with_used_study(text, "b", 'Slim "1"').split("\n") == [
        'study "Turned"', 'use b from "Slim \\"1\\""   # the "usual" one', 'x = "Turned"', 'use c from "Turned"',
    ]  # fmt: skip
    followed = with_title_followed(text, "Turned", "New")
    assert followed.count('from "New"') == 2 and followed.count('"Turned"') == 2
    assert with_title_followed(text, "Nobody", "New") == text
