"""What people say of themselves."""

from __future__ import annotations

from typing import Any

from django import forms
from django.contrib.auth import get_user_model
from django.contrib.auth.forms import UserCreationForm

from studio.accounts.names import plain_name


class SignUpForm(UserCreationForm):  # type: ignore[type-arg]  # only a type when it is checked
    """A new account: name, mail address for a forgotten password, password."""

    email = forms.EmailField(required=False, max_length=254)

    class Meta:
        model = get_user_model()
        fields = ("username", "email")


class PersonForm(forms.ModelForm):  # type: ignore[type-arg]
    """How a person is called, and where mail goes."""

    class Meta:
        model = get_user_model()
        fields = ("first_name", "last_name", "email")

    def clean_first_name(self) -> str:
        return plain_name(self.cleaned_data["first_name"])

    def clean_last_name(self) -> str:
        return plain_name(self.cleaned_data["last_name"])


class LeavingForm(forms.Form):
    """That an account is to be deleted: said by its password."""

    password = forms.CharField(max_length=4096)

    def __init__(self, person: Any, *given: Any) -> None:
        super().__init__(*given)
        self.person = person

    def clean_password(self) -> str:
        if not self.person.check_password(self.cleaned_data["password"]):
            raise forms.ValidationError("this is not the password of this account")
        return str(self.cleaned_data["password"])
