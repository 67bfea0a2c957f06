"""Steps that careful ways through practice machines share."""

from __future__ import annotations

from collections.abc import Sequence

from .machine_parts import PracticeStep


def begun(point: str, *, before: tuple[PracticeStep, ...] = ()) -> tuple[PracticeStep, ...]:
    """First look and the lamp, as with any machine."""
    return (
        PracticeStep("empty", "Unplugged is not discharged: empty every reservoir first."),
        PracticeStep("read F1 ohms", "A fuse blows for a reason, and looking at it may show the reason."),
        *before,
    )


def proof(point: str, cause: str, ripple: bool = True) -> tuple[PracticeStep, ...]:
    """Behind the lamp, then full mains on dummy loads, then the boards; what it was is said at the end."""
    found = [
        PracticeStep("power lamp dummy", "Behind the lamp first: a short makes the lamp bright."),
        PracticeStep("power full dummy", "Full mains, boards still unplugged."),
        PracticeStep(f"read {point} dc", "Read the rail before a board depends on it."),
    ]
    found.append(PracticeStep("power full board", "Only now connect the boards."))
    if ripple:
        found.append(PracticeStep(f"read {point} ripple", "Read the ripple under load."))
    found += [
        PracticeStep("power off", "Idle."), PracticeStep(f"say {cause}", "Name the cause."), PracticeStep("done", "Proven."),
    ]  # fmt: skip
    return tuple(found)


def looks(last: str, why: str) -> tuple[PracticeStep, ...]:
    """A look at each small store in turn, until the one that tells."""
    return tuple(PracticeStep(f"look {ref}", why) for ref in ("C2", "C3", "C4") if ref <= last)


def under_load(point: str) -> tuple[PracticeStep, ...]:
    """A rail that is right on dummy loads, and is not with its boards on."""
    return (
        PracticeStep("power lamp dummy", "Behind the lamp: nothing bright, nothing hot."),
        PracticeStep("power full dummy", "Dummy loads draw about half of what the boards draw."),
        PracticeStep(f"read {point} dc", "Right: the boards may be connected."),
        PracticeStep("power full board", "The complaint is about the machine at work."),
        PracticeStep(f"read {point} ripple", "This reading shows the fault."),
        PracticeStep("power off", "Make idle before a hand goes in."),
        PracticeStep("empty", "Power was on: the reservoirs are charged again."),
    )


def found_live(*reads: str) -> tuple[PracticeStep, ...]:
    return (
        PracticeStep("power lamp dummy", "Behind the lamp: nothing bright, nothing hot."),
        PracticeStep("power full dummy", "Dummy loads draw what the boards would draw."),
        *(PracticeStep(read, "The reading that the complaint is about.") for read in reads),
        PracticeStep("power off", "Make idle before a hand goes in."),
        PracticeStep("empty", "Power was on: the reservoirs are charged again."),
    )


def each_rail_read(way: Sequence[PracticeStep], points: Sequence[str]) -> tuple[PracticeStep, ...]:
    """A way with each rail read under its load at its end: what was not read is not proven.

    Args:
        way: the steps; the boards are connected in it for the last time before the end.
        points: the rails as they are read.

    Returns:
        The steps, with those readings after the boards were connected that were missing there.
    """
    last = max(i for i, step in enumerate(way) if step.move == "power full board")
    read = {step.move for step in way[last:]}
    missing = [
        PracticeStep(f"read {point} dc", "Each rail is read under its load: only then does it work.")
        for point in points
        if f"read {point} dc" not in read
    ]
    return (*way[: last + 1], *missing, *way[last + 1 :])
