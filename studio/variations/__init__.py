"""Variations: a study tried at many settings, compared, aimed and proved."""
