"""The addresses of the application."""

from django.contrib.auth import views as auth
from django.urls import path

from studio.benches import cutting, printing, profiles
from studio.engine import requests
from studio.handover import package
from studio.handover import views as handover
from studio.projects import pictures
from studio.projects import views as projects
from studio.variations import contact_sheets
from studio.variations import views as variations
from studio.workspace import beside, changes, files
from studio.workspace import views as workspace

_STUDY = "studies/<int:study_id>/"

urlpatterns = [
    path("", projects.overview, name="projects"),
    path("sign-in/", auth.LoginView.as_view(template_name="accounts/sign_in.html"), name="sign-in"),
    path("sign-out/", auth.LogoutView.as_view(), name="sign-out"),
    path("projects/new", projects.new_project, name="new-project"),
    path("projects/<int:project_id>/rename", projects.rename_project, name="rename-project"),
    path("projects/<int:project_id>/remove", projects.remove_project, name="remove-project"),
    path("projects/<int:project_id>/new", projects.new, name="new-study"),
    path("projects/<int:project_id>/take-in", projects.take_in, name="take-in"),
    path(_STUDY + "copy", projects.copy, name="copy"),
    path(_STUDY + "sheet.ovo", projects.give_out, name="give-out"),
    path(_STUDY + "remove", projects.remove, name="remove"),
    path(_STUDY + "bring-back", projects.bring_back, name="bring-back"),
    path(_STUDY + "remove-for-good", projects.remove_for_good, name="remove-for-good"),
    path(_STUDY + "picture", pictures.picture, name="picture"),
    path(_STUDY + "keep-picture", pictures.keep, name="keep-picture"),
    path("stop-job", requests.stop_job, name="stop-job"),
    path("sun", workspace.sun, name="sun"),
    path("vocabulary", workspace.vocabulary, name="vocabulary"),
    path(_STUDY, workspace.study_page, name="workspace"),
    path(_STUDY + "state", workspace.state, name="state"),
    path(_STUDY + "evaluate", workspace.evaluate, name="evaluate"),
    path(_STUDY + "moves", workspace.moves, name="moves"),
    path(_STUDY + "item", workspace.item, name="item"),
    path(_STUDY + "numbers", workspace.numbers, name="numbers"),
    path(_STUDY + "outline", workspace.outline, name="outline"),
    path(_STUDY + "schedule", workspace.schedule, name="schedule"),
    path(_STUDY + "bars", workspace.bars, name="bars"),
    path(_STUDY + "measure", workspace.measure, name="measure"),
    path(_STUDY + "beside", beside.beside, name="beside"),
    path(_STUDY + "swaps/<str:name>", beside.swaps, name="swaps"),
    path(_STUDY + "edit", changes.edit, name="edit"),
    path(_STUDY + "edit-copy", changes.edit_copy, name="edit-copy"),
    path(_STUDY + "undo", changes.undo, name="undo"),
    path(_STUDY + "redo", changes.redo, name="redo"),
    path(_STUDY + "history", changes.history, name="history"),
    path(_STUDY + "restore", changes.restore, name="restore"),
    path(_STUDY + "name-moment", changes.name_moment, name="name-moment"),
    path(_STUDY + "files/", files.attach, name="attach"),
    path(_STUDY + "files/<str:name>", files.attached, name="attached"),
    path(_STUDY + "files/<str:name>/remove", files.detach, name="detach"),
    path(_STUDY + "variations", variations.page, name="variations"),
    path(_STUDY + "variations/plan", variations.plan, name="plan"),
    path(_STUDY + "variations/trials", variations.trials, name="trials"),
    path(_STUDY + "variations/picture", variations.small_picture, name="small-picture"),
    path(_STUDY + "variations/table", variations.table, name="trial-table"),
    path(_STUDY + "variations/files", variations.trial_files, name="trial-files"),
    path(_STUDY + "variations/compare", variations.compare, name="compare"),
    path(_STUDY + "variations/beside", variations.comparable, name="comparable"),
    path(_STUDY + "variations/keep", contact_sheets.keep, name="keep-contact-sheet"),
    path(_STUDY + "variations/forget", contact_sheets.forget, name="forget-contact-sheet"),
    path(_STUDY + "aim", variations.aim, name="aim"),
    path(_STUDY + "reach", variations.reach, name="reach"),
    path(_STUDY + "bands", variations.bands, name="bands"),
    path(_STUDY + "proof", variations.proof, name="proof"),
    path("benches/<str:machine>/profile", profiles.text, name="profile-text"),
    path("benches/<str:machine>/keep", profiles.keep, name="keep-profile"),
    path("benches/<str:machine>/forget", profiles.forget, name="forget-profile"),
    path(_STUDY + "print", printing.page, name="print-bench"),
    path(_STUDY + "print/lay", printing.lay, name="print-lay"),
    path(_STUDY + "print/layers", printing.layer_figures, name="print-layers"),
    path(_STUDY + "print/layer", printing.one_layer, name="print-layer"),
    path(_STUDY + "print/run", printing.run, name="print-run"),
    path(_STUDY + "print/code", printing.code, name="print-code"),
    path(_STUDY + "print/keep", printing.keep, name="keep-print"),
    path(_STUDY + "cut", cutting.page, name="cut-bench"),
    path(_STUDY + "cut/lay", cutting.lay, name="cut-lay"),
    path(_STUDY + "cut/run", cutting.run, name="cut-run"),
    path(_STUDY + "cut/keep", cutting.keep, name="keep-cut"),
    path(_STUDY + "cut/file/<str:ending>", cutting.file, name="cut-file"),
    path(_STUDY + "package", package.page, name="hand-over-page"),
    path(_STUDY + "package/look", package.look, name="hand-over-look"),
    path(_STUDY + "package/take", package.take, name="hand-over-take"),
    path(_STUDY + "package/again", package.again, name="hand-over-again"),
    path(_STUDY + "hand-over/sheet/<str:file_name>", handover.sheet, name="hand-over-sheet"),
    path(_STUDY + "hand-over/<str:file_name>", handover.download, name="hand-over"),
]
