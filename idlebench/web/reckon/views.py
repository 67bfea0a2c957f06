"""The Reckoner: every registered reckoning with a live result and its inputs in the address."""

from __future__ import annotations

from functools import cache
from urllib.parse import urlencode

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import render
from django.urls import reverse

from idlebench.core.calculators import REGISTRY, Reckoning
from idlebench.core.draw.plots import Plot, plot
from idlebench.core.refusal import BadInput
from idlebench.core.text.quantity import show


@cache
def by_default() -> tuple[tuple[Reckoning, str, str], ...]:
    """Every reckoning with its inputs and its result for its defaults, in words. They never change: reckoned once."""
    return tuple(
        (
            item,
            " · ".join(f"{i.label} {i.shown}" for i in item.inputs),
            show(item.run({}).values[item.result], item.result_unit),
        )
        for item in REGISTRY.values()
    )


def _plot(item: Reckoning, typed: dict[str, str], value: float) -> Plot | None:
    """The value of a reckoning over one of its inputs, with a dot where it stands."""
    curve = item.curve(typed)
    if curve is None:
        return None
    xs, ys = zip(*curve.points, strict=True)
    return plot(
        [(item.title, "new", xs, ys)], units=(curve.unit, item.result_unit), height=170.0,
        title=f"Over {curve.label[:1].lower()}{curve.label[1:]}", dot=(curve.at, value, show(value, item.result_unit)),
    )  # fmt: skip


def reckoner(request: HttpRequest) -> HttpResponse:
    """All of them, each with its result for its defaults."""
    return render(request, "reckon/reckoner.html", {"rows": by_default(), "room": "reckoner"})


def reckoning(request: HttpRequest, name: str) -> HttpResponse:
    """One reckoning; as a page, or as the body of the Working panel for htmx."""
    if name not in REGISTRY:
        raise Http404
    item = REGISTRY[name]
    known = {i.name for i in item.inputs}
    typed = {**item.defaults(), **{key: value for key, value in request.GET.items() if key in known}}
    context: dict[str, object] = {
        "item": item,
        "fields": [(i, typed[i.name]) for i in item.inputs],
        "room": "reckoner",
        "others": REGISTRY.values(),
    }
    status = 200
    try:
        result = item.run(typed)
        value = result.values[item.result]
        context |= {"result": result, "shown": show(value, item.result_unit), "headline": item.headline(result)}
        context["plot"] = _plot(item, typed, value)
    except BadInput as error:
        context["complaint"] = error
        status = 200 if request.htmx else 422
    address = f"{reverse('reckoning', args=[name])}?{urlencode(typed)}"
    context["address"] = address
    template = "reckon/reckoning.html"
    if request.htmx:
        template = "reckon/result.html" if request.htmx.target == "result" else "reckon/panel.html"
    response = render(request, template, context, status=status)
    if request.htmx and request.htmx.target == "result" and request.GET.get("from") != "panel":
        response["HX-Replace-Url"] = address
    return response
