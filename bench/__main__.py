"""`make bench`: each row beside the same written by hand on the same libraries, in one run.

The ratio is what counts: the median over rounds of Ovolo's time by the hand-written time,
both taken in turn.
"""

from __future__ import annotations

import statistics
import time
from collections.abc import Callable
from dataclasses import dataclass

from bench import exploring, machines
from bench.rows import ROWS
from ovolo.remembering import keep_imports


@dataclass(frozen=True)
class Timing:
    ovolo: float
    by_hand: float
    ratio: float


def timed(run: Callable[[], object]) -> float:
    began = time.perf_counter()
    run()
    return time.perf_counter() - began


def compared(ovolo: Callable[[], object], by_hand: Callable[[], object], rounds: int) -> Timing:
    """Medians in seconds, and the median of the ratios round by round."""
    ovolo(), by_hand()
    pairs = [(timed(ovolo), timed(by_hand)) for _ in range(rounds)]
    ours, theirs = zip(*pairs, strict=True)
    ratios = [a / b for a, b in pairs]
    return Timing(statistics.median(ours), statistics.median(theirs), statistics.median(ratios))


def main() -> None:
    keep_imports()  # as the application's workers and its command do
    print(f"{'':58}{'Ovolo':>10}{'by hand':>10}{'ratio':>8}  budget")
    for row in [*ROWS, *machines.ROWS, *exploring.ROWS]:
        ovolo, by_hand = row.prepare()
        timing = compared(ovolo, by_hand, row.rounds)
        print(
            f"{row.title:58}{timing.ovolo * 1e3:8.2f}ms{timing.by_hand * 1e3:8.2f}ms"
            f"{timing.ratio:8.2f}  {row.budget}"
        )
    exploring.end()


if __name__ == "__main__":
    main()
