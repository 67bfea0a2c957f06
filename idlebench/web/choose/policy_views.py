"""Policies: the list, one to edit, and two side by side on a board."""

from __future__ import annotations

from dataclasses import fields

from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_POST

from idlebench.core.judge.policy import POLICIES, QUESTIONS, Policy, Weights, read_policy
from idlebench.core.refusal import BadInput

from ..records.models import ShopPolicy
from ..unit.policies import all_policies
from ..unit.state import board_state
from . import policies


def _flat(policy: Policy) -> dict[str, str]:
    kept = policy.as_json()
    return {**kept, **{f"weight_{name}": f"{value:g}" for name, value in kept["weights"].items()}}


def policy_list(request: HttpRequest, name: str = "") -> HttpResponse:
    """Every policy with its answers; one of the shop's own, or a copy of one that ships, to edit."""
    known = all_policies()
    if name and name not in known:
        raise ShopPolicy.DoesNotExist
    start = known.get(name or request.GET.get("like", "")) or POLICIES["renew"]
    typed = _flat(start) if name else {**_flat(start), "title": "", "reason": ""}
    complaint = None
    if request.method == "POST":
        typed = request.POST.dict()
        try:
            policies.keep_policy(read_policy({**typed, "name": name}), changes=bool(name))
            return redirect("policies")
        except BadInput as error:
            complaint = error
    questions = [(key, words, answers.items(), typed.get(key, "")) for key, (words, answers) in QUESTIONS.items()]
    context = {
        "policies": known.values(),
        **_table(list(known.values())),
        "first_name": start.name,
        "editing": bool(name or complaint or request.GET.get("like")),
        "ships": POLICIES,
        "typed": typed,
        "name": name,
        "questions": questions,
        "weights": [(f.name, typed.get(f"weight_{f.name}", "")) for f in fields(Weights)],
        "complaint": complaint,
        "room": "shelf",
    }
    return render(request, "choose/policies.html", context, status=422 if complaint else 200)


def _table(known: list[Policy]) -> dict[str, object]:
    """Policies as columns: the questions they answer in different ways, and those that all answer alike."""
    asked = [question for question, _ in known[0].answers]
    rows = [(question, [dict(p.answers).get(question, "–") for p in known]) for question in asked]
    rows.append(("Weights", [", ".join(f"{name} {weight:g}" for name, weight in p.weighing) for p in known]))
    return {
        "differing": [(q, answers) for q, answers in rows if len(set(answers)) > 1],
        "alike": [(q, answers[0]) for q, answers in rows if len(set(answers)) == 1],
    }


@require_POST
def drop(request: HttpRequest, name: str) -> HttpResponse:
    policies.drop_policy(ShopPolicy.objects.get(name=name))
    return redirect("policies")


def compare(request: HttpRequest, pk: int) -> HttpResponse:
    """Two policies side by side on a board."""
    state, board = board_state(pk)
    known = all_policies()
    second = next(name for name in known if name != state.policy.name)
    names = [request.GET.get("a", state.policy.name), request.GET.get("b", second)]
    pair = [known.get(name) or state.policy for name in names]
    both = [policies.outcome(state, board, policy) for policy in pair]
    context = {
        "state": state,
        "board": board,
        "stage": "choose",
        "both": both,
        "known": known.values(),
        "changed": policies.changed_by(*both),
    }
    return render(request, "choose/compare_policies.html", context)
