"""What depends on what."""

import graphlib

from hypothesis import given
from hypothesis import strategies as st

from ovolo.meaning.checked_sheet import checked_program
from ovolo.meaning.graph import needed_names, ordered
from ovolo.sheet.names import local_names, references
from ovolo.sheet.reader import read_statement

_GRAPHS = st.integers(1, 9).flatmap(
    lambda n: st.fixed_dictionaries(
        {k: st.lists(st.integers(0, n - 1), max_size=3) for k in range(n)}
    )
)


@given(_GRAPHS)
def test_the_order_and_the_circles(needs: dict[int, list[int]]) -> None:
    """Beside graphlib of Python's standard library: it orders what we order, and finds a circle
    where we find one."""
    order, circles = ordered(needs)
    assert sorted(order) == sorted(needs)
    for circle in circles:
        for at, key in enumerate(circle):
            assert circle[(at + 1) % len(circle)] in needs[key], "each needs the next"
    try:
        graphlib.TopologicalSorter(needs).prepare()
        acyclic = True
    except graphlib.CycleError:
        acyclic = False
    assert acyclic == (not circles)
    if acyclic:
        assert all(order.index(need) < order.index(key) for key in needs for need in needs[key])


_SHEETS = st.lists(st.lists(st.integers(0, 8), max_size=3), min_size=1, max_size=9)


@given(_SHEETS, st.data())
def test_what_is_needed_and_what_needs_it(needs: list[list[int]], data: st.DataObject) -> None:
    """Upstream and downstream are each other's opposite, and are closed."""
    lines = [f"a{at} = {' + '.join(['1', *(f'a{one}' for one in some if one < at)])}" for at, some in enumerate(needs)]  # fmt: skip
    program = checked_program("\n".join(data.draw(st.permutations(lines))))
    above = {line.name: {one.name for one in program.upstream([line])} for line in program.lines}
    for name, known in above.items():
        assert name in known
        assert known == {name}.union(*(above[need] for need in program.by_name[str(name)].needs))
        below = {one.name for one in program.downstream(frozenset([str(name)]))}
        assert below == {other for other, theirs in above.items() if name in theirs}


def names(text: str) -> set[str]:
    return set(needed_names(read_statement(text)[0]))


def test_local_names_are_not_needed() -> None:
    assert names("a = [i * b for i in 0 .. n if i > c]") == {"b", "n", "c"}
    assert names("f(x, y = d) = x + y + e") == {"d", "e"}
    assert names("f = (u, v) -> u * v * w") == {"w"}
    assert names("g(x):\n  y = x + h\n  z = y\n  z * k") == {"h", "k"}
    assert names("a = [j for i in i for j in i .. m]") == {"i", "m"}
    assert names('t = "a {b} c"') == {"b"}
    assert names('preset "P": a = 3, b = 4') == {"a", "b"}
    assert names("x = random(1, lo, 2)") == {"random", "lo", "seed"}


def test_places_of_references() -> None:
    text = 'part p = box(w, w, h).move(z = w) when w > 0 mm colour oak "w"'
    content, _ = read_statement(text)
    places = [span for name, span in references(content) if name == "w"]
    assert [text[start:end] for start, end in places] == ["w"] * 4
    assert local_names(read_statement("f(x):\n  y = [k for k in 0 .. x]\n  y")[0]) == {
        "x",
        "y",
        "k",
    }
