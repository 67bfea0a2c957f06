"""Ways of working where practitioners disagree: named, editable, one chosen for a job. No esr_criterion is mocked.

Safety-class parts, fuse ratings and tube tuning parts stand outside: nothing here can be set for them.

Source: workshop practice, because good restorers disagree: each way of working says what it asks.
"""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass, field, fields, replace
from typing import Any

from ..refusal import BadInput
from ..text.quantity import read


@dataclass(frozen=True, kw_only=True)
class Weights:
    """How much each thing counts among parts that fit; a policy's own, shown with the plan. Lower scores come first.

    value: per doubling away from the marked value. volts: per rating away from one step up. margin: what the first margin
    of life and of ripple is worth, falling off as it grows. shelf: for a part not on the shelf. price: per unit of money.
    height: per old height. forming: per mm of lead forming.
    """

    value: float = 2.0
    volts: float = 0.25
    margin: float = 0.8
    shelf: float = 0.25
    price: float = 0.05
    height: float = 0.15
    forming: float = 0.05


#: Questions a policy answers: field → (words, answers with their words).
QUESTIONS: dict[str, tuple[str, dict[str, str]]] = {
    "what": (
        "What to replace",
        {
            "renew": "every electrolytic, and every bad part",
            "mend": "only what is judged bad",
            "staged": "the worst first, doubtful ones after a test",
            "cohort": "what is bad, and all of its series",
        },
    ),
    "stores": (
        "Big reservoirs",
        {"with the rest": "as the rest", "measured": "keep if they measure sound", "always": "always replace"},
    ),
    "values": ("Value and volts", {"step up": "one step up where the role allows", "exact": "exactly the marked ones"}),
    "kinds": ("Kind of part", {"free": "polymer, ceramic or film where the role allows", "same": "kind for kind"}),
    "regulators": ("Regulators", {"same": "same kind", "module": "switching module where it fits"}),
}
#: From this value on (F) a store after a rectifier counts as a big reservoir.
BIG_STORE = 470e-6


@dataclass(frozen=True, kw_only=True)
class Policy:
    """A named way of deciding what to replace and by what."""

    name: str
    title: str
    reason: str
    what: str = "renew"
    stores: str = "with the rest"
    values: str = "step up"
    kinds: str = "free"
    regulators: str = "same"
    weights: Weights = field(default_factory=Weights)

    @property
    def answers(self) -> list[tuple[str, str]]:
        """Each question with this policy's answer, in words."""
        return [(words, answers[getattr(self, name)]) for name, (words, answers) in QUESTIONS.items()]

    @property
    def weighing(self) -> list[tuple[str, float]]:
        """Its weights by name."""
        return [(f.name, getattr(self.weights, f.name)) for f in fields(Weights)]

    def as_json(self) -> dict[str, Any]:
        """The policy as it is kept."""
        kept = {name: getattr(self, name) for name in ("name", "title", "reason", *QUESTIONS)}
        return {**kept, "weights": dict(self.weighing)}


POLICIES = {
    p.name: p
    for p in (
        Policy(
            name="renew",
            title="replace all electrolytics",
            reason="Every electrolytic and every bad part is replaced; sound film and ceramic parts stay.",
            what="renew",
        ),
        Policy(
            name="mend",
            title="replace what tests bad",
            reason="Only parts judged bad are replaced; the others stay original.",
            what="mend",
        ),
        Policy(
            name="staged",
            title="worst first, then test",
            reason="The bad parts go first; doubtful ones wait for the test after them.",
            what="staged",
        ),
        Policy(
            name="cohort",
            title="bad parts and their series",
            reason="Bad parts are replaced, and every part of a series with one bad part.",
            what="cohort",
        ),
    )
}


def read_policy(typed: Mapping[str, Any]) -> Policy:
    """A policy from a form or from JSON; weights may stand flat as weight_value and so on.

    Args:
        typed: as it was typed.

    Returns:
        The policy.

    Raises:
        BadInput: naming the field.
    """
    title = str(typed.get("title", "")).strip()
    if not 3 <= len(title) <= 60:
        raise BadInput(title, "a name of 3 to 60 characters for it", field="title")
    reason = str(typed.get("reason", "")).strip()
    if len(reason) > 300:
        raise BadInput(reason, "at most 300 characters", field="reason")
    answers = {}
    for name, (_, allowed) in QUESTIONS.items():
        answers[name] = str(typed.get(name) or next(iter(allowed)))
        if answers[name] not in allowed:
            raise BadInput(answers[name], f"one of {', '.join(allowed)}", field=name)
    given = typed.get("weights")
    flat = given if isinstance(given, Mapping) else {}
    weights = {}
    for f in fields(Weights):
        text = str(typed.get(f"weight_{f.name}", flat.get(f.name, f.default))).strip()
        weights[f.name] = read(text or str(f.default), "", field=f"weight_{f.name}", low=0, high=100)
    plain = re.sub(r"[^a-z0-9]+", "-", title.lower()).strip("-") or "own"
    name = str(typed.get("name") or plain)[:60]
    return Policy(name=name, title=title, reason=reason or "This shop's own.", **answers, weights=Weights(**weights))


def policy_of(policy: str | Policy, more: Mapping[str, Policy] | None = None) -> Policy:
    """A policy by its name, among those that ship and the shop's own.

    Args:
        policy: the policy by which it is decided.
        more: more of them.

    Returns:
        The policy.

    Raises:
        BadInput: there is none of that name.
    """
    if isinstance(policy, Policy):
        return policy
    known = {**(more or {}), **POLICIES}
    if policy not in known:
        raise BadInput(policy, f"one of the policies {', '.join(known)}", field="policy")
    return known[policy]


__all__ = ["BIG_STORE", "POLICIES", "QUESTIONS", "Policy", "Weights", "policy_of", "read_policy", "replace"]
