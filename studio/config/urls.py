"""The addresses of the application."""

from django.contrib.auth import views as auth
from django.urls import path

from studio.handover import views as handover
from studio.projects import views as projects
from studio.workspace import views as workspace

urlpatterns = [
    path("", projects.overview, name="projects"),
    path("sign-in/", auth.LoginView.as_view(template_name="accounts/sign_in.html"), name="sign-in"),
    path("sign-out/", auth.LogoutView.as_view(), name="sign-out"),
    path("studies/<int:study_id>/", workspace.study_page, name="workspace"),
    path("studies/<int:study_id>/evaluate", workspace.evaluate, name="evaluate"),
    path("studies/<int:study_id>/edit", workspace.edit, name="edit"),
    path("studies/<int:study_id>/undo", workspace.undo, name="undo"),
    path("studies/<int:study_id>/redo", workspace.redo, name="redo"),
    path("studies/<int:study_id>/files/", workspace.attach, name="attach"),
    path("studies/<int:study_id>/files/<str:name>", workspace.attached, name="attached"),
    path("studies/<int:study_id>/files/<str:name>/remove", workspace.detach, name="detach"),
    path("studies/<int:study_id>/hand-over/<str:file_name>", handover.download, name="hand-over"),
]
