"""Only what a value needs is run, and it is worth the same."""

from ovolo.exploring.presets import preset_values
from ovolo.meaning.checked_sheet import checked_program
from ovolo.running import evaluate as evaluating
from ovolo.running.evaluate import evaluate, evaluate_only
from ovolo.running.operators import equal
from tests.sheets import DEMO, demo_tables


def test_each_line_alone_is_what_it_is_in_the_whole() -> None:
    for path in sorted(DEMO.glob("0[1-4]*.ovo")):
        text = path.read_text(encoding="utf-8")
        program = checked_program(text, demo_tables(text))
        whole = {id(one.line): one for one in evaluate(program)}
        for line in program.lines[::3]:
            (alone,) = [one for one in evaluate_only(program, [line]) if one.line is line]
            known = whole[id(line)]
            assert alone.problems == known.problems
            if isinstance(known.value, float | str | bool):
                assert equal(alone.value, known.value)


def test_a_preset_is_read_without_the_study(monkeypatch) -> None:  # type: ignore[no-untyped-def]
    ran: list[object] = []
    run_line = evaluating._Evaluation.run_line
    monkeypatch.setattr(
        evaluating._Evaluation,
        "run_line",
        lambda self, line: (ran.append(line), run_line(self, line)),
    )
    lines = ("input a = 1 mm", "b = [sqrt(i) for i in 0 .. 99999]", 'preset "P": a = 3 mm')
    assert preset_values(checked_program("\n".join(lines)), "P") == {"a": 3.0}
    assert len(ran) == 2, "the preset and its input"
