"""Forms whose fields make one reading together: sent as one entry, read by the form."""

from typing import Any

from django import forms

from mockup.base.faults import Fault, FaultsError


def item_of_form(form: forms.Form) -> Any:
    """Return the piece of the core that a form makes. Raises FaultsError, by the field's label."""
    if form.is_valid():
        return form.item  # type: ignore[attr-defined]
    raise FaultsError(
        Fault(name, f"{form.fields[name].label}: {message}" if name in form.fields else str(message))
        for name, messages in form.errors.items()
        for message in messages
    )
