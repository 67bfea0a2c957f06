"""The shop's own policies, and two of them side by side on a board."""

from __future__ import annotations

from dataclasses import dataclass, replace

from django.db import transaction

from idlebench.core.choose.need import need_of
from idlebench.core.choose.rank import rank_many
from idlebench.core.choose.strain_rules import LIFE_WANTED
from idlebench.core.judge.policy import POLICIES, Policy
from idlebench.core.judge.verdict import decide
from idlebench.core.refusal import BadInput

from ..records.models import Job, ShopPolicy
from ..unit.parts import BoardState
from ..unit.state import UnitState
from ..unit.stock import columns


@transaction.atomic
def keep_policy(policy: Policy, *, changes: bool = False) -> ShopPolicy:
    """Keep a policy of the shop's own: a new one, or the one of that name changed.

    Raises:
        BadInput: a name of one that ships, which stay as they are; or a new one under a name that is taken.
    """
    if policy.name in POLICIES:
        raise BadInput(
            policy.name,
            "a name of its own",
            "Supplied policies stay as they are: give yours another title.",
            field="title",
        )
    row = ShopPolicy.objects.filter(name=policy.name).first()
    if row and not changes:
        raise BadInput(policy.title, "a title that no policy has yet", "Or change that policy.", field="title")
    row = row or ShopPolicy(name=policy.name)
    row.data = policy.as_json()
    row.save()
    return row


@transaction.atomic
def drop_policy(row: ShopPolicy) -> None:
    """Take a policy of the shop's own away.

    Raises:
        BadInput: a job goes by it.
    """
    jobs = Job.objects.filter(policy=row.name)
    if jobs.exists():
        raise BadInput(
            row.name,
            "a policy that no job uses",
            f"Job {jobs.first().number} uses it: change it there first.",
            field="policy",
        )
    row.delete()


@dataclass(frozen=True, kw_only=True)
class Outcome:
    """What a policy makes of a board.

    replaced, kept: references. doubtful: those of which the best is looked at twice. nothing: places where nothing fits.
    price: money. shortest: least expected life, h, None where none is reckoned. tallest: mm. chosen: part by reference.
    """

    policy: Policy
    replaced: tuple[str, ...]
    kept: tuple[str, ...]
    doubtful: tuple[str, ...]
    nothing: tuple[str, ...]
    price: float
    shortest: float | None
    tallest: float
    chosen: dict[str, str]


def outcome(state: UnitState, board: BoardState, policy: Policy) -> Outcome:
    """What a policy would do with a board as it stands."""
    parts = [p for p in board.parts if not p.swap]
    bad = frozenset(
        p.core.series for s in state.boards for p in s.parts if p.core.series and p.verdict.name == "replace"
    )
    decided = [(p, decide(p.core, p.verdict, policy, bad)) for p in parts]
    go = [p for p, decision in decided if decision.replace]
    rankings = rank_many([need_of(p.core, state.mains, policy=policy) for p in go], columns(), fits=1, refused=0)
    best = {p.ref: r.best for p, r in zip(go, rankings, strict=True)}
    lives = [m.value for c in best.values() if c for m in c.margins if m.rule == "life" and m.value]
    return Outcome(
        policy=policy,
        replaced=tuple(p.ref for p in go),
        kept=tuple(p.ref for p, decision in decided if not decision.replace),
        doubtful=tuple(ref for ref, c in best.items() if c and c.verdict == "look twice"),
        nothing=tuple(ref for ref, c in best.items() if c is None),
        price=round(sum(c.part.price for c in best.values() if c), 2),
        shortest=min(lives, default=None),
        tallest=max((c.part.height for c in best.values() if c), default=0.0),
        chosen={ref: c.part.part for ref, c in best.items() if c},
    )


def changed_by(one: Outcome, other: Outcome) -> list[tuple[str, str, str]]:
    """Places that two policies treat differently: what each puts there, "the old part" where it stays."""
    places = dict.fromkeys((*one.replaced, *one.kept))
    found = []
    for ref in places:
        pair = tuple(o.chosen.get(ref, "nothing fits" if ref in o.replaced else "the old part") for o in (one, other))
        if pair[0] != pair[1]:
            found.append((ref, *pair))
    return found


__all__ = ["LIFE_WANTED", "Outcome", "changed_by", "drop_policy", "keep_policy", "outcome", "replace"]
