"""Forms that are saved field by field, as they are changed: a page that is old in one place harms no other."""

from django import forms
from django.db.models import Model
from django.http import Http404, HttpRequest

FormClass = type[forms.ModelForm]


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
    data = {each.name: each.value() for each in stored}
    data[name] = request.POST.get(name)
    return form_class(data, instance=instance), name


def save_one_field(form: forms.ModelForm, name: str) -> bool:
    """Stores that field alone; False, and nothing stored, where it or its place among the others is refused."""
    if name in form.errors or form.non_field_errors():
        return False
    instance = form.instance
    fresh = type(instance)._default_manager.get(pk=instance.pk)
    setattr(fresh, name, form.cleaned_data[name])
    fresh.save(update_fields=[name, "changed_at"])
    return True
