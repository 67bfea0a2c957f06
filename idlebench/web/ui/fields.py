"""Forms of django.forms whose fields are read by the product's own readers: values with units, typed lines, one of some words.

A field that cannot be read is told by its name, what was read and what was expected; a form tells all of them at once.
"""

from __future__ import annotations

from collections.abc import Callable, Collection, Mapping
from typing import Any

from django import forms
from django.core.exceptions import ValidationError

from idlebench.core.refusal import BadInput, SeveralRefused
from idlebench.core.text.quantity import read

#: Reads the text of a field, given its name: for the complaint.
Reader = Callable[[str, str], Any]


class TypedField(forms.Field):
    """A field that a reader of ours reads. default: what an empty one means."""

    def __init__(self, reader: Reader, default: Any = None, widget: forms.Widget | None = None) -> None:
        super().__init__(required=False, widget=widget or forms.TextInput)
        self.reader, self.default = reader, default

    def clean(self, value: object) -> Any:
        """The value read.

        Raises:
            ValidationError: it cannot be read; `params` carries the refusal.
        """
        text = value if isinstance(value, str) else ""
        try:
            found = self.reader(text, "")
        except BadInput as error:
            raise ValidationError(error.plain, params={"refused": error}) from None
        return self.default if found is None else found


class TypedForm(forms.Form):
    """A form of typed fields."""

    def facts(self) -> dict[str, Any]:
        """What was typed, by field.

        Raises:
            SeveralRefused: all that cannot be taken, each naming its field.
        """
        if self.is_valid():
            return dict(self.cleaned_data)
        refused = []
        for name, errors in self.errors.as_data().items():
            error = errors[0].params["refused"]
            line = f", {error.field}" if error.field else ""
            refused.append(error.within(f"{name}{line}"))
        raise SeveralRefused(refused)


def words(text: str, name: str, title: str, longest: int, *, required: bool = False) -> str:
    """A text, held to its length.

    Raises:
        BadInput: it is too long, or not there though it must be.
    """
    text = text.strip()
    if required and not text:
        raise BadInput("", title, field=name)
    if len(text) > longest:
        raise BadInput(text, f"at most {longest} characters", field=name)
    return text


def words_field(title: str, longest: int, *, required: bool = False) -> TypedField:
    """A text of at most so many characters. title: what is expected there."""
    return TypedField(lambda text, name: words(text, name, title, longest, required=required))


def option_field(allowed: Callable[[], Collection[str]] | Collection[str], default: str) -> TypedField:
    """One of some words."""

    def reader(text: str, name: str) -> str:
        some = allowed() if callable(allowed) else allowed
        if (text or default) not in some:
            raise BadInput(text, f"one of {', '.join(some)}", field=name)
        return text or default

    return TypedField(reader)


def number_field(unit: str, default: float | None = None, **bounds: float) -> TypedField:
    """A value with its unit, or the default where the field is empty."""

    def reader(text: str, name: str) -> float | None:
        return read(text.strip(), unit, field=name, **bounds) if text.strip() else None

    return TypedField(reader, default)


def whole_field(low: int, high: int, default: int | None = None) -> TypedField:
    """A whole number, or the default where the field is empty."""

    def reader(text: str, name: str) -> int | None:
        value = read(text.strip(), "", field=name, low=low, high=high) if text.strip() else None
        if value is not None and value != int(value):
            raise BadInput(text, "a whole number", field=name)
        return None if value is None else int(value)

    return TypedField(reader, default)


class Boxes(forms.Widget):
    """A box for each of some words, `has_…` in a form; or the words, one a line."""

    def __init__(self, options: Collection[str]) -> None:
        super().__init__()
        self.options = options

    def value_from_datadict(self, data: Mapping[str, Any], files: object, name: str) -> str:
        """The words that are ticked or listed, with blanks between."""
        listed = str(data.get(name) or "").split()
        return " ".join([*listed, *(one for one in self.options if data.get(f"has_{one}") and one not in listed)])
