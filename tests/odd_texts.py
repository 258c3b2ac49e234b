"""Texts of characters that are apt to be taken amiss: those of names, of paths and of markup, what is not seen, what runs the
other way, what is put together of several, and what lies beyond the first plane of Unicode."""

from __future__ import annotations

from hypothesis import strategies as st

_ODD = [*"aZé0 .,:;-_/\\|<>\"'?*%&#=+@()[]{}$^~`!\n\r\t", *"\x07\x1b\x7f\x85\xa0\xad\u0301\u200b\u200f\u2028\u202e\u2066\ufeff\uffff", *"°µ½ſßıİﬁ漢א𝔸😀"]  # fmt: skip


def odd_texts(longest: int, without: str = "") -> st.SearchStrategy[str]:
    return st.text(st.sampled_from([one for one in _ODD if one not in without]), max_size=longest)
