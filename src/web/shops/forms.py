"""Forms about people: joining, one's own page."""

from typing import Any

from django import forms
from django.contrib.auth import authenticate
from django.contrib.auth.password_validation import validate_password
from django.core.exceptions import ValidationError
from django.http import HttpRequest

from web.shops.clock import zones
from web.shops.models import Pass, Person, Shop


class PasswordMixin(forms.Form):
    """A password typed twice, checked against the rules."""

    password = forms.CharField(label="Password", widget=forms.PasswordInput(attrs={"autocomplete": "new-password"}))
    again = forms.CharField(label="The same again", widget=forms.PasswordInput(attrs={"autocomplete": "new-password"}))

    def clean(self) -> dict[str, Any]:
        """Check that both are the same, and not weak."""
        found = super().clean() or {}
        first, again = found.get("password"), found.get("again")
        if first and again and first != again:
            self.add_error("again", "The two passwords differ.")
        elif first:
            try:
                validate_password(first)
            except ValidationError as error:
                self.add_error("password", error)
        return found


class JoinForm(PasswordMixin):
    """A person who joins by a one-time link."""

    shop = forms.CharField(max_length=80, label="The shop’s name")
    name = forms.CharField(max_length=60, label="Your name", help_text="shown beside your readings")
    username = forms.CharField(max_length=60, label="Name to sign in with")
    field_order = ["shop", "name", "username", "password", "again"]

    def __init__(self, kind: str, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        if kind != Pass.Kind.FIRST:
            del self.fields["shop"]
        if kind == Pass.Kind.PASSWORD:
            del self.fields["name"], self.fields["username"]
        dress(self)

    def clean_username(self) -> str:
        """Check that nobody else uses the name."""
        name: str = self.cleaned_data["username"].strip().lower()
        if Person.objects.filter(username__iexact=name).exists():
            raise ValidationError("This name is taken. Choose another.")
        return name


class OwnForm(forms.ModelForm):  # type: ignore[type-arg]
    """What a person may change of themselves."""

    class Meta:
        model = Person
        fields = ["first_name", "unit", "theme", "time_zone"]
        labels = {"first_name": "Your name", "unit": "New builds are kept in", "theme": "Light or dark pages"}

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.fields["first_name"].required = True
        shops = (self.instance.shop and self.instance.shop.time_zone) or "UTC"
        self.fields["time_zone"] = zone_field("Times are shown in", f"as the shop ({shops})")
        dress(self)


class ShopForm(forms.ModelForm):  # type: ignore[type-arg]
    """What the owner may change of the shop itself."""

    class Meta:
        model = Shop
        fields = ["time_zone", "paper"]
        labels = {"paper": "Paper of printed sheets"}

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.fields["time_zone"] = zone_field("Times are shown in", "UTC")
        dress(self)


def zone_field(label: str, otherwise: str) -> forms.ChoiceField:
    """Return a choice of time zones; ``otherwise`` says what holds where none is chosen."""
    return forms.ChoiceField(
        label=label, required=False, choices=[("", otherwise), *((name, name.replace("_", " ")) for name in zones())]
    )


class NewPasswordForm(PasswordMixin):
    """A new password, set by a person who knows the old one."""

    old = forms.CharField(label="Password now", widget=forms.PasswordInput(attrs={"autocomplete": "current-password"}))
    field_order = ["old", "password", "again"]

    def __init__(self, request: HttpRequest, person: Person, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.request = request
        self.person = person
        dress(self)

    def clean_old(self) -> str:
        """Check the present password."""
        old: str = self.cleaned_data["old"]
        # Through authenticate, so that a guess here counts like one on the sign-in page.
        if authenticate(self.request, username=self.person.username, password=old) != self.person:
            raise ValidationError("That is not your present password.")
        return old


def dress(form: forms.BaseForm) -> None:
    """Give the fields their look."""
    for field in form.fields.values():
        select = isinstance(field.widget, forms.Select)
        field.widget.attrs["class"] = "form-select" if select else "form-control"
