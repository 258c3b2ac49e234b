"""How long a turn takes where two or twenty people turn inputs at once, by how long it takes one alone;
and what 200 open windows cost that ask what is new.

`make bench-people` serves a study to each of them from a database of its own; each turns an input,
waits for the picture and turns on after a fifth of a second, for ten seconds.
"""

from __future__ import annotations

import statistics
import tempfile
import threading
import time
from pathlib import Path

from bench.serving import Person, at_share, people, served

PEOPLE = (2, 20)
SECONDS = 10.0
WINDOWS = 200
ASK_EVERY = 4.0
"""Seconds between two questions of a window (`frontend/workspace/together.js`)."""

SHEET = """input r = 40 mm from 20 mm to 60 mm
input n = 24
plate = rect(1 m, 0.6 m) - [disc(r / 4).move(i * 36 mm - 420 mm, r - 20 mm) for i in 0 .. n - 1]
part p = extrude(plate, 12 mm)
part posts = [cylinder(r / 5, 300 mm + i * 4 mm).move(i * 36 mm - 420 mm) for i in 0 .. n - 1]
check volume(p) > 0 mm^3"""


def turned(person: Person, study: int, until: float) -> list[float]:
    """Seconds of each turn of one person."""
    found: list[float] = []
    while time.monotonic() < until:
        body = {"set": {"r": 20.0 + len(found) % 40 + study / 100}}
        status, _, seconds = person.asks(f"/studies/{study}/evaluate", body)
        if status == 200:
            found.append(seconds)
        time.sleep(0.2)
    return found


def turned_together(
    everybody: dict[str, Person], studies: dict[str, int]
) -> dict[str, list[float]]:
    """Seconds of each turn of each person, while all of them turn."""
    found: dict[str, list[float]] = {}
    until = time.monotonic() + SECONDS

    def turn(name: str) -> None:
        found[name] = turned(everybody[name], studies[name], until)

    threads = [threading.Thread(target=turn, args=(name,)) for name in everybody]
    for one in threads:
        one.start()
    for one in threads:
        one.join()
    return found


def asked_for_news(person: Person, study: int, until: float) -> list[float]:
    """Seconds of each question of all windows; a thread stands for ten of them."""
    found: list[float] = []

    def ask(first: int) -> None:
        while time.monotonic() < until:
            for window in range(first, first + 10):
                begun = time.monotonic()
                found.append(person.asks(f"/studies/{study}/news", {"window": str(window)})[2])
                time.sleep(max(ASK_EVERY / 10 - (time.monotonic() - begun), 0))

    threads = [threading.Thread(target=ask, args=(first,)) for first in range(0, WINDOWS, 10)]
    for one in threads:
        one.start()
    for one in threads:
        one.join()
    return found


def _print_windows(person: Person, study: int, lone: float) -> None:
    until = time.monotonic() + SECONDS
    times: list[float] = []
    asking = threading.Thread(target=lambda: times.extend(asked_for_news(person, study, until)))
    asking.start()
    beside = at_share(turned(person, study, until), 0.95)
    asking.join()
    print(
        f"{WINDOWS} windows that ask what is new, 95 % of {len(times)}: {at_share(times, 0.95) * 1e3:.0f} ms; "
        f"one who turns beside them: {beside * 1e3:.0f} ms, {beside / lone:.1f} x"
    )


def main() -> None:
    names = [f"person{k}" for k in range(max(PEOPLE))]
    with tempfile.TemporaryDirectory() as folder:
        studies = people(Path(folder), SHEET, *names)
        with served(Path(folder)) as port:
            everybody = {name: Person(port, name) for name in names}
            first = names[0]
            turned(everybody[first], studies[first], time.monotonic() + 2)
            alone = turned(everybody[first], studies[first], time.monotonic() + SECONDS)
            lone = at_share(alone, 0.95)
            print(f"one person alone, 95 % of {len(alone)} turns: {lone * 1e3:.0f} ms")
            for count in PEOPLE:
                found = turned_together({name: everybody[name] for name in names[:count]}, studies)
                _print(found, lone)
            _print_windows(everybody[first], studies[first], lone)


def _print(found: dict[str, list[float]], lone: float) -> None:
    each = [at_share(times, 0.95) for times in found.values()]
    every = [one for times in found.values() for one in times]
    print(
        f"{len(found)} people, 95 % of {len(every)} turns: {at_share(every, 0.95) * 1e3:.0f} ms, "
        f"{at_share(every, 0.95) / lone:.1f} x; slowest person by the median of all: "
        f"{max(each) / statistics.median(each):.1f} x"
    )


if __name__ == "__main__":
    main()
