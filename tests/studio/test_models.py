"""Studies and their revisions."""

import pytest

from studio.projects.models import OutOfDate, Study

pytestmark = pytest.mark.django_db


def test_a_save_names_the_revision_it_was_made_from(study: Study) -> None:
    first = study.head_id
    second = study.save_text("a = 1", first)
    assert study.text == "a = 1" and second.parent_id == first
    with pytest.raises(OutOfDate):
        study.save_text("a = 2", first)
    assert Study.objects.get(pk=study.pk).text == "a = 1"


def test_undo_and_redo_go_through_revisions(study: Study) -> None:
    original = study.text
    study.save_text("a = 1", study.head_id)
    study.save_text("a = 2", study.head_id)
    assert study.undo(study.head_id or 0) and study.text == "a = 1"
    assert study.undo(study.head_id or 0) and study.text == original
    assert study.undo(study.head_id or 0) is None and study.text == original
    assert study.redo(study.head_id or 0) and study.text == "a = 1"
    assert study.redo(study.head_id or 0) and study.text == "a = 2"
    assert study.redo(study.head_id or 0) is None


def test_after_an_undo_a_new_edit_is_what_redo_goes_to(study: Study) -> None:
    study.save_text("a = 1", study.head_id)
    study.undo(study.head_id or 0)
    study.save_text("b = 1", study.head_id)
    study.undo(study.head_id or 0)
    study.redo(study.head_id or 0)
    assert study.text == "b = 1"
    assert study.revisions.filter(text="a = 1").exists(), "nothing is lost"


def test_saving_the_same_text_makes_no_revision(study: Study) -> None:
    study.save_text(study.text, study.head_id)
    assert study.revisions.count() == 1
