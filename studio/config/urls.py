"""The addresses of the application."""

from django.contrib.auth import views as auth
from django.urls import path

from studio.api import views as api
from studio.benches import cutting, printing, profiles
from studio.engine import requests
from studio.handover import package
from studio.handover import views as handover
from studio.learning import views as learning
from studio.people import account, links, members, signing, visiting
from studio.projects import pictures
from studio.projects import views as projects
from studio.projects.access import by_link
from studio.reference import views as reference
from studio.service import views as service
from studio.together import news, remarks
from studio.variations import contact_sheets
from studio.variations import views as variations
from studio.workspace import beside, changes, files
from studio.workspace import views as workspace

_STUDY = "studies/<int:study_id>/"

urlpatterns = [
    path("", projects.overview, name="projects"),
    path("api/openapi.json", api.openapi, name="openapi"),
    path("api/studies", api.studies, name="api-studies"),
    path("api/studies/<int:number>", api.study, name="api-study"),
    path("api/studies/<int:number>/evaluate", api.evaluate, name="api-evaluate"),
    path("api/studies/<int:number>/hand-over", api.hand_over, name="api-hand-over"),
    path("api/<path:rest>", api.nothing, name="api-nothing"),
    path("account/tokens/make", account.make_token, name="make-token"),
    path("account/tokens/<int:number>/end", account.end_token, name="end-token"),
    path("reference/", reference.page, name="reference"),
    path("reference/try", reference.attempt, name="try-example"),
    path("reference/find", reference.find, name="find-words"),
    path("reference/how-to/<slug:key>", reference.how_to, name="how-to"),
    path("reference/messages", reference.messages, name="messages"),
    path("reference/rules/<slug:key>", reference.rule, name="rule"),
    path("reference/<str:sort>/<path:name>", reference.entry, name="reference-entry"),
    path("first-hour/", learning.page, name="first-hour"),
    path("first-hour/<slug:key>", learning.begin, name="begin-exercise"),
    path("health", service.health, name="health"),
    path("metrics", service.figures, name="metrics"),
    path("sign-in/", signing.sign_in, name="sign-in"),
    path("sign-out/", auth.LogoutView.as_view(), name="sign-out"),
    path("sign-up/", signing.sign_up, name="sign-up"),
    path("reset/", signing.forgotten, name="forgotten"),
    path("reset/sent", signing.sent, name="reset-sent"),
    path("reset/<str:uidb64>/<str:token>", signing.reset, name="reset"),
    path("account/", account.page, name="account"),
    path("account/save", account.save, name="save-account"),
    path("account/password", account.change_password, name="change-password"),
    path("account/sessions/<int:number>/end", account.end_session, name="end-session"),
    path("account/sessions/end-others", account.end_others, name="end-other-sessions"),
    path("account/everything", account.take_all, name="take-all"),
    path("account/delete", account.delete, name="delete-account"),
    path("projects/take-in", projects.unpack, name="unpack-project"),
    path("projects/<int:project_id>/pack", projects.pack, name="pack-project"),
    path("projects/<int:project_id>/order", projects.order, name="order-studies"),
    path("projects/<int:project_id>/people", members.page, name="people"),
    path("projects/<int:project_id>/people/invite", members.invite, name="invite"),
    path("projects/<int:project_id>/people/<int:number>", members.set_role, name="set-role"),
    path("projects/<int:project_id>/leave", members.leave, name="leave-project"),
    path(
        "projects/<int:project_id>/invitations/<int:number>/end",
        members.end_invitation,
        name="end-invitation",
    ),
    path("projects/<int:project_id>/links/make", links.make, name="make-link"),
    path("projects/<int:project_id>/links/<int:number>/end", links.end, name="end-link"),
    path("invitations/<str:token>", members.invitation, name="invitation"),
    path("invitations/<str:token>/accept", members.accept, name="accept-invitation"),
    path(_STUDY + "copy-to", visiting.choose_project, name="choose-project"),
    path(_STUDY + "take-copy", visiting.take_copy, name="take-copy"),
    path(_STUDY + "news", news.news, name="news"),
    path(_STUDY + "remarks", remarks.listed, name="remarks"),
    path(_STUDY + "remarks/make", remarks.make, name="make-remark"),
    path(_STUDY + "remarks/settle", remarks.settle, name="settle-remark"),
    path(_STUDY + "remarks/take-back", remarks.take_back, name="take-back-remark"),
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
    path("job-share", requests.job_share, name="job-share"),
    path("sun", workspace.sun, name="sun"),
    path("vocabulary", workspace.vocabulary, name="vocabulary"),
    path(_STUDY + "exercise", learning.guide, name="exercise"),
    path(_STUDY + "exercise/leave", learning.leave, name="leave-exercise"),
    path(_STUDY, workspace.study_page, name="workspace"),
    path(_STUDY + "state", workspace.state, name="state"),
    path(_STUDY + "standing", workspace.standing, name="standing"),
    path(_STUDY + "evaluate", workspace.evaluate, name="evaluate"),
    path(_STUDY + "turned", workspace.turned, name="turned"),
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
    path(_STUDY + "variations/varied", variations.varied, name="varied"),
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

_LINK = "links/<str:token>/"

# What a visitor reaches by a link, and nothing else.
urlpatterns += [
    path(_LINK, visiting.landing, name="link"),
    *(
        path(_LINK + _STUDY + tail, by_link(view), name=f"link-{name}")
        for tail, view, name in (
            ("", workspace.study_page, "workspace"),
            ("state", workspace.state, "state"),
            ("evaluate", workspace.evaluate, "evaluate"),
            ("turned", workspace.turned, "turned"),
            ("moves", workspace.moves, "moves"),
            ("bands", variations.bands, "bands"),
            ("item", workspace.item, "item"),
            ("numbers", workspace.numbers, "numbers"),
            ("schedule", workspace.schedule, "schedule"),
            ("bars", workspace.bars, "bars"),
            ("measure", workspace.measure, "measure"),
            ("files/<str:name>", files.attached, "attached"),
            ("hand-over/sheet/<str:file_name>", handover.sheet, "hand-over-sheet"),
            ("hand-over/<str:file_name>", handover.download, "hand-over"),
        )
    ),
    path(_LINK + _STUDY + "picture.png", visiting.preview, name="link-picture"),
    path(_LINK + _STUDY + "embed", visiting.embedded, name="link-embed"),
    path(_LINK + _STUDY + "copy-to", visiting.choose_project, name="link-choose-project"),
    path(_LINK + _STUDY + "take-copy", visiting.take_copy, name="link-take-copy"),
]
