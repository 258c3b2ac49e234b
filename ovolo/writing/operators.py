"""The operators and the words of expressions, as a person looks them up."""

from __future__ import annotations

from msgspec import Struct


class Operator(Struct, frozen=True):
    """How it is written, what it does, and an example with what that gives. `others` are names by
    which it may be looked for."""

    written: str
    meaning: str
    example: str
    gives: str
    others: tuple[str, ...] = ()


OPERATORS = (
    Operator("+", "the sum; of solids and regions what either has", "2 m + 30 cm", "2300 mm", ("add", "plus", "union", "join", "fuse")),
    Operator("-", "the difference; of solids and regions the first without the second", "2 m - 30 cm", "1700 mm", ("subtract", "minus", "cut", "hole")),
    Operator("*", "the product", "3 * 20 mm", "60 mm", ("times", "multiply")),
    Operator("/", "the quotient", "3 m / 4", "750 mm", ("divide", "over")),
    Operator("^", "the power, exact: 1/2 is the root", "(9 m^2)^(1/2)", "3 m", ("power", "**", "square", "root")),
    Operator("&", "of solids and regions what both have", "area(rect(2 m, 1 m) & rect(1 m, 2 m))", "1 m^2", ("intersect", "common", "overlap")),
    Operator("==", "whether two values are equal; `within` says how nearly", "3 m == 300 cm within 1 mm", "yes", ("equal", "same")),
    Operator("!=", "whether two values differ", "3 != 4", "yes", ("unequal", "different", "<>")),
    Operator("<", "whether a value is less; comparisons may be chained", "1 < 2 < 3", "yes", ("less", "below")),
    Operator("<=", "whether a value is less or equal", "3 <= 3", "yes", ("at most",)),
    Operator(">", "whether a value is more", "3 > 2", "yes", ("more", "greater", "above")),
    Operator(">=", "whether a value is more or equal", "3 >= 3", "yes", ("at least",)),
    Operator("and", "whether both hold", "1 < 2 and 2 < 3", "yes", ("&&", "both")),
    Operator("or", "whether one of them holds", "1 > 2 or 2 < 3", "yes", ("||", "either")),
    Operator("not", "whether it does not hold", "not (1 > 2)", "yes", ("!", "negate")),
    Operator("if", "one value or another: if … then … else …", "if 3 > 2 then 5 mm else 6 mm", "5 mm", ("choose", "condition", "?", "then", "else")),
    Operator("..", "the numbers from one to another, both with it; `by` says the step", "sum([i for i in 0 .. 1 by 0.25])", "2.5", ("range", "steps", "to", "by")),
    Operator("for", "a list: one item for each of another list, `if` chooses among them", "sum([i^2 for i in 1 .. 3 if i != 2])", "10", ("loop", "each", "map", "filter", "in", "repeat")),
    Operator("->", "a function without a name, to hand to a word", "root(x -> x^2 - 9, 0, 5)", "3", ("lambda", "function")),
    Operator("[ ]", "a list; behind a list its item, counted from 0, from the end below 0", "[3, 5, 8][-1]", "8", ("index", "item", "array", "list")),
    Operator("( )", "brackets; with commas a point", "norm((3 m, 4 m))", "5 m", ("point", "vector", "brackets")),
    Operator(".", "a coordinate, a value of a study, or a word behind what it is given", "(3 m, 4 m).y", "4 m", ("member", "method", "field", "coordinate")),
    Operator('" "', "a text; braces put values into it", '"{2 + 3} risers"', '"5 risers"', ("text", "string", "quotes")),
)  # fmt: skip
