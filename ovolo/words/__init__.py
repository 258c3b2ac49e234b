"""The words of the language: one Python function each, in a module per trade.

`ovolo.words.registry` holds what they are; importing `ovolo.words.all` fills it.
"""
