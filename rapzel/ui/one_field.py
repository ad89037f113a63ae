"""Forms that are saved field by field, as they are changed: a page that is old in one place harms no other."""

from collections.abc import Callable
from typing import Any

from django import forms
from django.db import transaction
from django.db.models import Model
from django.http import Http404, HttpRequest

FormClass = type[forms.ModelForm]
Follows = Callable[[Any, str, Any], dict[str, Any]]


def alone(row: Model, name: str, value: Any) -> dict[str, Any]:
    """Nothing follows from the field but itself."""
    return {name: value}


def with_one_field(
    form_class: FormClass, instance: Model, request: HttpRequest
) -> tuple[forms.ModelForm, str]:
    """The form with everything as it is stored but the one field that was posted (`field` names it).

    Raises Http404 for a field that the form does not have.
    """
    name = request.POST.get("field", "")
    stored = form_class(instance=instance)
    if name not in stored.fields:
        raise Http404
    # All fields as they are stored, so that rules between fields are asked, too.
    data = {each.name: each.value() for each in stored}
    data[name] = request.POST.get(name)
    return form_class(data, instance=instance), name


def save_one_field(form: forms.ModelForm, name: str, follows: Follows = alone) -> bool:
    """Stores that field alone; False, and nothing stored, where it or its place among the others is refused.

    `follows` says what is stored with it: (the row as it is stored, the field, its new value) -> values by field.
    """
    if name in form.errors or form.non_field_errors():
        return False
    with transaction.atomic():
        # Several fields may share a column: two that are saved at once come one after the other.
        rows = type(form.instance)._default_manager.select_for_update(of=("self",))
        # Read anew under the lock: another field may have been saved since the form was made.
        fresh = rows.get(pk=form.instance.pk)
        values = follows(fresh, name, form.cleaned_data[name])
        for field, value in values.items():
            setattr(fresh, field, value)
        fresh.save(update_fields=[*values, "changed_at"])
    return True
