"""An evaluator of its own making: random formulas, and what they are worth, worked out with mpmath to
40 digits and exact fractions. It shares nothing with the engine but the text of the formula.

Every value carries by how much a float64 may miss it: each operation adds half a unit in the last
place of its result to what its operands bring (Higham, Accuracy and Stability of Numerical
Algorithms, 2002, chapters 1 to 3). Formulas whose answer hangs on such noise are not asked for.
"""

from __future__ import annotations

import random
from collections.abc import Callable
from dataclasses import dataclass
from fractions import Fraction
from typing import Any

from mpmath import mp, mpf

mp.dps = 40
EPS = mpf(2) ** -52

# The units by their definitions: the international inch (1959), the SI, the degree as pi/180.
LENGTHS = {
    "mm": 1,
    "cm": 10,
    "m": 1000,
    "in": Fraction(254, 10),
    "ft": Fraction(3048, 10),
    "um": Fraction(1, 1000),
}
ANGLES = {"°": mp.pi / 180, " rad": mpf(1), " gon": mp.pi / 200}

TABLE = "name,bore [mm],pitch [in],teeth\nA,6.6,0.25,12\nB,9,0.375,18\nC,11.25,0.5,31\n"
ROWS = {
    "A": (Fraction(66, 10), Fraction(254, 40), 12),
    "B": (Fraction(9), Fraction(3 * 254, 80), 18),
    "C": (Fraction(1125, 100), Fraction(127, 10), 31),
}


class Unclear(Exception):
    """The answer hangs on noise, or does not exist: another formula is made."""


@dataclass
class Value:
    """`value` is an mpf (mm, rad) with the error `miss`, a list of them (a point), a text or yes/no."""

    text: str
    value: Any
    miss: Any = 0
    binds: int = 9
    """How tightly it is written: 1 comparison, 2 sum, 3 product, 4 sign, 5 power, 9 atom."""

    def within(self, least: int) -> str:
        return self.text if self.binds >= least else f"({self.text})"


def _clear(value: mpf, miss: mpf) -> mpf:
    if not mp.isfinite(value) or abs(value) > mpf(10) ** 12:
        raise Unclear
    return miss + EPS * abs(value) / 2


def _apart(value: mpf, miss: mpf) -> None:
    """Refuses a value that noise could take to the other side of 0."""
    if abs(value) <= 1000 * miss + mpf(10) ** -9:
        raise Unclear


class Formulas:
    """Random formulas of each kind, to a depth."""

    def __init__(self, seed: int) -> None:
        self.chance = random.Random(seed)

    def any(self, depth: int) -> Value:
        kind = self.chance.choice(
            [self.number, self.number, self.length, self.length, self.angle, self.area, self.point,
             self.text, self.truth]
        )  # fmt: skip
        while True:
            try:
                return kind(depth)
            except Unclear:
                continue

    def _one_of(
        self, depth: int, leaf: Callable[[], Value], rules: list[Callable[[int], Value]]
    ) -> Value:
        if depth <= 0 or self.chance.random() < 0.15:
            return leaf()
        return self.chance.choice(rules)(depth - 1)

    # --- figures written out ---

    def _figure(self) -> tuple[str, Fraction]:
        """`12`, `0.5`, `.25`, `3e2`, and what it is."""
        form = self.chance.randrange(5)
        if form == 0:
            text = str(self.chance.randint(0, 90))
        elif form == 1:
            text = f"{self.chance.randint(0, 40)}.{self.chance.randint(1, 99):02d}"
        elif form == 2:
            text = f".{self.chance.randint(1, 999):03d}"
        elif form == 3:
            text = f"{self.chance.randint(1, 9)}e{self.chance.randint(-2, 2)}"
        else:
            text = str(self.chance.randint(1, 12))
        return text, Fraction(text)

    def _literal(self, text: str, value: Any) -> Value:
        exact = (
            mpf(value.numerator) / value.denominator if isinstance(value, Fraction) else mpf(value)
        )
        return Value(text, exact, EPS * abs(exact))

    def plain(self) -> Value:
        return self._literal(*self._figure())

    def long(self) -> Value:
        form = self.chance.randrange(8)
        if form == 0:
            feet, inches = self.chance.randint(0, 9), self.chance.randint(0, 11)
            return self._literal(
                f"{feet} ft {inches} in", Fraction(3048, 10) * feet + Fraction(254, 10) * inches
            )
        if form == 1:
            part = Fraction(self.chance.randint(1, 15), 16)
            return self._literal(
                f"{part.numerator}/{part.denominator} in", part * Fraction(254, 10)
            )
        if form == 2:
            whole, part = self.chance.randint(1, 9), Fraction(self.chance.randint(1, 7), 8)
            return self._literal(
                f"{whole} {part.numerator}/{part.denominator} in",
                (whole + part) * Fraction(254, 10),
            )
        if form == 3:
            feet, inches = self.chance.randint(1, 9), self.chance.randint(0, 11)
            return self._literal(
                f"{feet}' {inches}\"", Fraction(3048, 10) * feet + Fraction(254, 10) * inches
            )
        text, value = self._figure()
        unit = self.chance.choice(list(LENGTHS))
        return self._literal(f"{text} {unit}", value * LENGTHS[unit])

    def turn(self) -> Value:
        text, value = self._figure()
        if self.chance.random() < 0.2:
            degrees, minutes = self.chance.randint(0, 89), self.chance.randint(0, 59)
            return self._literal(
                f"{degrees}°{minutes}'", (degrees + mpf(minutes) / 60) * mp.pi / 180
            )
        unit = self.chance.choice(list(ANGLES))
        exact = mpf(value.numerator) / value.denominator * ANGLES[unit]
        return self._literal(f"{text}{unit}", exact)

    # --- operators, for figures of any kind ---

    def _sum(self, make: Callable[[int], Value]) -> Callable[[int], Value]:
        def rule(depth: int) -> Value:
            a, b = make(depth), make(depth)
            if self.chance.random() < 0.5:
                total, text = a.value + b.value, f"{a.within(2)} + {b.within(3)}"
            else:
                total, text = a.value - b.value, f"{a.within(2)} - {b.within(3)}"
            return Value(text, total, _clear(total, a.miss + b.miss), 2)

        return rule

    def _times(
        self, left: Callable[[int], Value], right: Callable[[int], Value]
    ) -> Callable[[int], Value]:
        def rule(depth: int) -> Value:
            a, b = left(depth), right(depth)
            found = a.value * b.value
            miss = abs(a.value) * b.miss + abs(b.value) * a.miss
            return Value(f"{a.within(3)} * {b.within(4)}", found, _clear(found, miss), 3)

        return rule

    def _by(
        self, above: Callable[[int], Value], below: Callable[[int], Value]
    ) -> Callable[[int], Value]:
        def rule(depth: int) -> Value:
            a, b = above(depth), below(depth)
            _apart(b.value, b.miss)
            found = a.value / b.value
            miss = a.miss / abs(b.value) + abs(found) * b.miss / abs(b.value)
            return Value(f"{a.within(3)} / {b.within(4)}", found, _clear(found, miss), 3)

        return rule

    def _minus(self, make: Callable[[int], Value]) -> Callable[[int], Value]:
        def rule(depth: int) -> Value:
            a = make(depth)
            return Value(f"-{a.within(5)}", -a.value, a.miss, 4)

        return rule

    def _choice(self, make: Callable[[int], Value]) -> Callable[[int], Value]:
        def rule(depth: int) -> Value:
            test, a, b = self.truth(depth), make(depth), make(depth)
            chosen = a if test.value else b
            return Value(f"(if {test.text} then {a.text} else {b.text})", chosen.value, chosen.miss)

        return rule

    def _of_two(self, make: Callable[[int], Value]) -> Callable[[int], Value]:
        def rule(depth: int) -> Value:
            word = self.chance.choice(["min", "max", "abs", "clamp"])
            a, b = make(depth), make(depth)
            if word == "abs":
                return Value(f"abs({a.text})", abs(a.value), a.miss)
            if word == "clamp":
                low, high = sorted((b, make(depth)), key=lambda one: one.value)
                _apart(high.value - low.value, high.miss + low.miss)
                found = min(max(a.value, low.value), high.value)
                return Value(
                    f"clamp({a.text}, {low.text}, {high.text})",
                    found,
                    a.miss + low.miss + high.miss,
                )
            pick = min if word == "min" else max
            return Value(f"{word}({a.text}, {b.text})", pick(a.value, b.value), max(a.miss, b.miss))

        return rule

    def _rounded(
        self, make: Callable[[int], Value], step: Callable[[], Value]
    ) -> Callable[[int], Value]:
        def rule(depth: int) -> Value:
            word = self.chance.choice(["floor", "ceil", "round"])
            a, multiple = make(depth), step()
            if multiple.value <= 0 or abs(a.value / multiple.value) > 10**5:
                raise Unclear
            share = a.value / multiple.value + (mpf(1) / 2 if word == "round" else 0)
            if word == "round" and share - mpf(1) / 2 < 0:  # halves go away from 0
                share = -(abs(share - mpf(1) / 2) + mpf(1) / 2)
            if abs(share - mp.nint(share)) < mpf(10) ** -6:
                raise Unclear
            whole = (
                mp.ceil(share)
                if (word == "ceil" or (word == "round" and share < 0))
                else mp.floor(share)
            )
            found = whole * multiple.value
            return Value(
                f"{word}({a.text}, {multiple.text})",
                found,
                _clear(found, abs(whole) * multiple.miss),
            )

        return rule

    # --- kinds ---

    def number(self, depth: int) -> Value:
        rules = [
            self._sum(self.number), self._times(self.number, self.number), self._by(self.number, self.number),
            self._by(self.length, self.length), self._by(self.area, self.area), self._minus(self.number),
            self._choice(self.number), self._of_two(self.number), self._rounded(self.number, self.plain),
            self._trigonometry, self._logarithm, self._power, self._root, self._of_text, self._cell("teeth", 2),
            self._dot,
        ]  # fmt: skip
        return self._one_of(depth, self.plain, rules)

    def length(self, depth: int) -> Value:
        rules = [
            self._sum(self.length), self._times(self.number, self.length), self._times(self.length, self.number),
            self._by(self.length, self.number), self._by(self.area, self.length), self._minus(self.length),
            self._choice(self.length), self._of_two(self.length), self._rounded(self.length, self.long),
            self._side, self._coordinate, self._norm, self._cell("bore", 0), self._cell("pitch", 1),
        ]  # fmt: skip
        return self._one_of(depth, self.long, rules)

    def angle(self, depth: int) -> Value:
        rules = [
            self._sum(self.angle), self._times(self.number, self.angle), self._minus(self.angle),
            self._choice(self.angle), self._inverse, self._bearing,
        ]  # fmt: skip
        return self._one_of(depth, self.turn, rules)

    def area(self, depth: int) -> Value:
        rules = [self._times(self.length, self.length), self._sum(self.area), self._square]
        return self._one_of(depth, lambda: self._square(0), rules)

    # --- words ---

    def _trigonometry(self, depth: int) -> Value:
        word, a = self.chance.choice(["sin", "cos", "tan"]), self.angle(depth)
        if abs(a.value) > 10**4:
            raise Unclear
        sine, cosine = mp.sin(a.value), mp.cos(a.value)
        if word == "tan":
            _apart(cosine, mpf(10) ** -6)
            found, steep = sine / cosine, 1 / cosine**2
        else:
            found, steep = (sine, cosine) if word == "sin" else (cosine, sine)
        return Value(f"{word}({a.text})", found, _clear(found, abs(steep) * a.miss + EPS))

    def _logarithm(self, depth: int) -> Value:
        word, a = self.chance.choice(["exp", "ln", "log10", "tanh", "cosh"]), self.number(depth)
        if word in ("exp", "cosh", "tanh"):
            if abs(a.value) > 20:
                raise Unclear
            found = {"exp": mp.exp, "cosh": mp.cosh, "tanh": mp.tanh}[word](a.value)
            steep = mp.exp(abs(a.value)) if word != "tanh" else 1
        else:
            _apart(a.value, a.miss)
            if a.value < mpf(10) ** -6:
                raise Unclear
            found = mp.log(a.value) if word == "ln" else mp.log10(a.value)
            steep = 1 / a.value
        return Value(f"{word}({a.text})", found, _clear(found, abs(steep) * a.miss + EPS))

    def _power(self, depth: int) -> Value:
        a, n = self.number(depth), self.chance.choice([2, 3, -1, -2])
        _apart(a.value, a.miss)
        found = a.value**n
        return Value(
            f"{a.within(9)}^{n}",
            found,
            _clear(found, abs(n * found / a.value) * a.miss + EPS * abs(found)),
            5,
        )

    def _square(self, depth: int) -> Value:
        a = self.length(depth)
        found = a.value**2
        return Value(
            f"({a.text})^2", found, _clear(found, 2 * abs(a.value) * a.miss + EPS * abs(found)), 5
        )

    def _side(self, depth: int) -> Value:
        a = self.area(depth)
        if a.value <= 1000 * a.miss + mpf(10) ** -9:
            raise Unclear
        found = mp.sqrt(a.value)
        text = self.chance.choice(["sqrt({0})", "({0})^(1/2)", "({0})^0.5"]).format(a.text)
        return Value(
            text, found, _clear(found, a.miss / found + EPS * found), 5 if "^" in text else 9
        )

    def _root(self, depth: int) -> Value:
        a = self.number(depth)
        if a.value <= 1000 * a.miss + mpf(10) ** -9:
            raise Unclear
        found = mp.sqrt(a.value)
        return Value(f"sqrt({a.text})", found, _clear(found, a.miss / found + EPS * found))

    def _inverse(self, depth: int) -> Value:
        word, a = self.chance.choice(["asin", "acos", "atan"]), self.number(depth)
        if word != "atan" and abs(a.value) > mpf("0.999"):
            raise Unclear
        found = {"asin": mp.asin, "acos": mp.acos, "atan": mp.atan}[word](a.value)
        return Value(f"{word}({a.text})", found, _clear(found, 30 * a.miss + EPS))

    def _bearing(self, depth: int) -> Value:
        y, x = self.length(depth), self.length(depth)
        size = mp.hypot(x.value, y.value)
        _apart(size, x.miss + y.miss)
        _apart(y.value, y.miss)  # just below the negative x axis it jumps by a whole turn
        found = mp.atan2(y.value, x.value)
        return Value(
            f"atan2({y.text}, {x.text})", found, _clear(found, (x.miss + y.miss) / size + EPS)
        )

    def _cell(self, column: str, at: int) -> Callable[[int], Value]:
        def rule(depth: int) -> Value:
            name = self.chance.choice(list(ROWS))
            value = Fraction(ROWS[name][at])
            text = f'lookup(parts, "{column}", name = "{name}")'
            return self._literal(text, value)

        return rule

    # --- points ---

    def point(self, depth: int) -> Value:
        return self._one_of(depth, lambda: self._written_point(0), [self._written_point, self._polar, self._point_sum, self._point_scaled])  # fmt: skip

    def _written_point(self, depth: int) -> Value:
        parts = [self.length(depth) for _ in range(self.chance.choice([2, 3]))]
        padded = [*parts, Value("", mpf(0))][:3]
        text = f"({', '.join(part.text for part in parts)})"
        return Value(text, [one.value for one in padded], [one.miss for one in padded])

    def _polar(self, depth: int) -> Value:
        r, a = self.length(depth), self.angle(depth)
        if abs(a.value) > 10**4:
            raise Unclear
        places = [r.value * mp.cos(a.value), r.value * mp.sin(a.value), mpf(0)]
        miss = r.miss + abs(r.value) * (a.miss + 2 * EPS)
        return Value(f"polar({r.text}, {a.text})", places, [miss, miss, mpf(0)])

    def _point_sum(self, depth: int) -> Value:
        a, b = self.point(depth), self.point(depth)
        places = [x + y for x, y in zip(a.value, b.value, strict=True)]
        misses = [_clear(p, x + y) for p, x, y in zip(places, a.miss, b.miss, strict=True)]
        return Value(f"{a.within(2)} + {b.within(3)}", places, misses, 2)

    def _point_scaled(self, depth: int) -> Value:
        a, k = self.point(depth), self.number(depth)
        places = [x * k.value for x in a.value]
        misses = [
            _clear(p, abs(x) * k.miss + abs(k.value) * m)
            for p, x, m in zip(places, a.value, a.miss, strict=True)
        ]
        return Value(f"{a.within(3)} * {k.within(4)}", places, misses, 3)

    def _coordinate(self, depth: int) -> Value:
        a, at = self.point(depth), self.chance.randrange(3)
        return Value(f"{a.within(9)}.{'xyz'[at]}", a.value[at], a.miss[at])

    def _norm(self, depth: int) -> Value:
        a = self.point(depth)
        found = mp.sqrt(sum(x**2 for x in a.value))
        _apart(found, sum(a.miss))
        return Value(f"norm({a.text})", found, _clear(found, sum(a.miss) + EPS * found))

    def _dot(self, depth: int) -> Value:
        a, b = self.point(depth), self.point(depth)
        found = sum(x * y for x, y in zip(a.value, b.value, strict=True))
        size = sum(abs(x * y) for x, y in zip(a.value, b.value, strict=True))
        miss = sum(
            abs(x) * n + abs(y) * m
            for x, y, m, n in zip(a.value, b.value, a.miss, b.miss, strict=True)
        )
        one = Value(f"dot({a.text}, {b.text})", found, _clear(found, miss + 4 * EPS * size))
        return Value(f"{one.text} / (1 mm)^2", one.value, one.miss + EPS * abs(found), 3)

    # --- texts and yes/no ---

    def text(self, depth: int) -> Value:
        pieces, said = [], ""
        for _ in range(self.chance.randint(1, 4)):
            if self.chance.random() < 0.5:
                word = self.chance.choice(["Tread ", "bay", " ", "{{", "Ø", "No. "])
                pieces.append(word)
                said += word.replace("{{", "{")
                continue
            whole = self.chance.randint(-99, 99)
            form = self.chance.randrange(3)
            if form == 0:
                pieces.append(f"{{{whole} + 1}}")
                said += str(whole + 1)
            elif form == 1:
                pieces.append(f"{{{whole} mm}}" if whole >= 0 else f"{{({whole}) * 1 mm}}")
                said += f"{whole} mm"
            else:
                test = self.truth(min(depth, 1))
                if '"' in test.text:
                    continue
                pieces.append(f"{{{test.text}}}")
                said += "yes" if test.value else "no"
        return Value(f'"{"".join(pieces)}"', said)

    def _of_text(self, depth: int) -> Value:
        a = self.text(depth)
        return Value(f"len({a.text})", mpf(len(a.value)))

    def truth(self, depth: int) -> Value:
        rules = [self._compared(self.number), self._compared(self.length), self._compared(self.angle),
                 self._both, self._opposite, self._same_text]  # fmt: skip
        return self._one_of(
            depth, lambda: Value(*self.chance.choice([("yes", True), ("no", False)])), rules
        )

    def _compared(self, make: Callable[[int], Value]) -> Callable[[int], Value]:
        def rule(depth: int) -> Value:
            a, b, sign = (
                make(depth),
                make(depth),
                self.chance.choice(["<", "<=", ">", ">=", "==", "!="]),
            )
            _apart(
                a.value - b.value, a.miss + b.miss + mpf(10) ** -11 * (abs(a.value) + abs(b.value))
            )
            holds = {"<": a.value < b.value, "<=": a.value < b.value, ">": a.value > b.value,
                     ">=": a.value > b.value, "==": False, "!=": True}[sign]  # fmt: skip
            return Value(f"{a.within(2)} {sign} {b.within(2)}", bool(holds), binds=1)

        return rule

    def _both(self, depth: int) -> Value:
        a, b, sign = self.truth(depth), self.truth(depth), self.chance.choice(["and", "or"])
        holds = (a.value and b.value) if sign == "and" else (a.value or b.value)
        return Value(f"({a.within(2)} {sign} {b.within(2)})", holds)

    def _opposite(self, depth: int) -> Value:
        a = self.truth(depth)
        return Value(f"(not {a.within(2)})", not a.value)

    def _same_text(self, depth: int) -> Value:
        a, b = self.text(0), self.text(0)
        return Value(f"{a.text} == {b.text}", a.value == b.value, binds=1)
