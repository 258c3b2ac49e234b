"""Messages of the browser are checked at the door."""

from __future__ import annotations

from dataclasses import fields
from typing import Any

import pytest

from ovolo.problems import Failure
from studio.engine import editing, wire, wire_types


@pytest.mark.parametrize(
    ("kind", "body", "hint"),
    [
        (wire.Replace, {"line": 3}, "`text` is missing"),
        (wire.Replace, {"line": "3", "text": "a"}, "`line` is wrong"),
        (wire.Replace, {"line": True, "text": "a"}, "`line` is wrong"),
        (wire.Replace, {"line": 3.5, "text": "a"}, "`line` is wrong"),
        (wire.Limit, {"name": "w", "role": "middle"}, "`role` is wrong"),
        (wire.Asked, {"held": {}}, "`held` is wrong"),
        (wire.Asked, {"text": 5}, "`text` is wrong"),
        (wire.SetInput, {"name": "w", "value": {}}, "`value` is wrong"),
        (wire.Moment, {"moment": None}, "`moment` is wrong"),
    ],
)
def test_what_is_missing_or_wrong_is_named(kind: Any, body: dict[str, Any], hint: str) -> None:
    with pytest.raises(Failure) as caught:
        wire.read(kind, body)
    assert (caught.value.message, caught.value.hint) == ("the request cannot be read", hint)


def test_what_fits_is_taken_and_the_rest_passed_over() -> None:
    said = {"name": "w", "value": [1, 2.5], "revision": 7, "edit": "set"}
    assert wire.read(wire.SetInput, said) == wire.SetInput("w", [1, 2.5])
    assert wire.read(wire.Asked, {"working": None, "set": {"a": 1}}).as_task()["set"] == {"a": 1}
    assert "working" not in wire.Asked().as_task()


@pytest.mark.parametrize("name", [*editing._RULES, *editing._IN_WORKER])
def test_every_edit_refuses_a_body_of_wrong_types(name: str) -> None:
    message, _ = {**editing._RULES, **editing._IN_WORKER}[name]
    for one in fields(message):
        body = {"edit": name, **{other.name: 1 for other in fields(message)}, one.name: {"no": 1}}
        with pytest.raises(Failure, match="cannot be read"):
            editing.edited("input w = 3 mm", body, {})


def test_the_scripts_know_every_message_as_it_is_declared() -> None:
    assert wire_types.WRITTEN.read_text() == wire_types.declared(), (
        "write it anew: python -m studio.engine.wire_types"
    )
