"""What a monitor asks: its tube discharged twice and again, its cold checks joint by joint, and its own way up behind the rails.

Source: SOURCE; IEC 60065:2014, clause 6, for X-radiation; the rest: workshop practice, because sheets name volts and not how far they
may stray.
"""

from __future__ import annotations

from ..board.monitor_lines import Heater, LineStage, Monitor
from ..circuit.monitor import lamp_for, lamp_load
from ..text.quantity import show
from .checks import BoardFacts, Check, PowerStep
from .facts import PLUG, STEP
from .monitor_cold import TRAINED

#: B+ and its heater may stray by these shares; ripple of B+ by this share.
B_PLUS, HEATER, RIPPLE = 0.03, 0.05, 0.01
#: Minutes that the line stage is listened to, and the picture left to soak.
LISTENED, SOAKED = 1.0, 30.0
#: From these B+ on a lamp for 12, 24 or mains volts is near enough, V; sizes of the small ones, W.
SMALL_LAMPS = ((15.0, 12.0, (5.0, 10.0, 21.0, 45.0)), (40.0, 24.0, (5.0, 10.0, 21.0, 70.0)))
#: The anode's volts to B+ may be over the sheet's ratio by this share: the retrace part sets it, and an open one lets it rise.
OVER_RATIO = 0.05
#: The share of the mains that a variable transformer stands at between the limiter lamp and full mains.
PART = 0.60

Of = tuple[tuple[str, str], ...]


def monitor_steps(board: BoardFacts, under: Of, part: bool = False, mains: float = 230.0) -> list[PowerStep]:
    """The power-up steps of a monitor behind its supply: B+ on a lamp; the probe on the anode, then B+ raised in steps with the anode read
    against it; field, picture, soak.

    Args:
        board: the board, with what is known of it.
        under: what it rests on.
        part: whether its supply can be brought up in part, by a variable transformer.
        mains: V rms, what its lamps are made for.

    Returns:
        The steps, in the order in which they are taken.
    """
    m = board.monitor
    if m is None:
        return []
    own: dict = {"board": board.name, "live": True, "fact": STEP, "of": under}
    steps = []
    rising = ("mrise", "mpart") if part and m.stage is not None else ("mrise",)
    if m.stage is not None:
        steps.append(_on_a_lamp(board, m, m.stage, own, under, mains))
    steps += [_rising(board, m, own, under, key, rising) for key in rising]
    steps.append(_full(board, m, own, under))
    if m.stage is not None and m.stage.shutdown:
        steps.append(_shutdown(board, m.stage.shutdown, own))
    if m.output is not None:
        steps.append(
            PowerStep(key=_key("mfield", board), title=f"Field of {board.name}", detail="height and linearity", checks=(
                _seen(board, "mfield", "height", "the picture's height", "Full from top to bottom, no line, no fold at the top.", own),
                _seen(board, "mfield", "even", "lines of the pattern", "As far apart at the bottom as at the top.", own),
            ), live=True, caution=_LIVE)
        )  # fmt: skip
    steps.append(
        PowerStep(key=_key("mpict", board), title=f"Picture of {board.name}", detail="with a pattern on it", checks=(
            _seen(board, "mpict", "square", "geometry", "Crosshatch straight and square, circles round.", own),
            _seen(board, "mpict", "focus", "focus", "Dots sharp in the middle and fair in the corners.", own),
            _seen(board, "mpict", "grey", "brightness range", "Black is black, every grey step differs from the next.", own),
        ), live=True, caution=_LIVE)
    )  # fmt: skip
    soak: list[Check] = []
    if m.stage is not None:
        soak.append(_b_plus(board, "msoak", m.stage, own, SOAKED))
    soak.append(_seen(board, "msoak", "steady", "the picture", "Steady, no smell, nothing ticks.", own, hold=SOAKED))
    detail = f"{SOAKED:g} minutes, B+ drifts by no more than 3 %"
    steps.append(
        PowerStep(
            key=_key("msoak", board),
            title=f"Soak of {board.name}",
            detail=detail,
            checks=tuple(soak),
            live=True,
            caution=_LIVE,
        )
    )
    return steps


_LIVE = f"{TRAINED} One hand, outputs only; brightness down before power."


def _key(step: str, board: BoardFacts) -> str:
    return f"{step}.{board.id}"


def _seen(board: BoardFacts, step: str, what: str, point: str, ask: str, own: dict, **more: object) -> Check:
    return Check(
        key=f"up.{step}.{what}.{board.id}",
        step=_key(step, board),
        kind="function",
        point=point,
        ask=ask,
        **{**own, **more},
    )


def _b_plus(board: BoardFacts, step: str, stage: LineStage, own: dict, hold: float = 0.0) -> Check:
    low, high = (stage.supply * (1 + way * B_PLUS) for way in (-1, 1))
    return Check(
        key=f"up.{step}.bplus.{board.id}", step=_key(step, board), kind="dc_volts", point=f"B+ of {board.name}",
        ask="At the line stage's own pin, to the chassis ground.", low=low, high=high, nominal=stage.supply, safety=True, hold=hold,
        why="±3 %: width and tube volts depend on it.", off_now=True, **own,
    )  # fmt: skip


def _on_a_lamp(board: BoardFacts, m: Monitor, stage: LineStage, own: dict, under: Of, mains: float) -> PowerStep:
    rated, sizes = next(((volts, some) for most, volts, some in SMALL_LAMPS if stage.supply <= most), (mains, ()))
    needed = stage.supply * (stage.draws or 0.0)
    lamp = lamp_for(needed, rated, stage.supply, sizes) if needed else 0.0
    told = (
        f"a {lamp:g} W {rated:g} V lamp, which draws about {show(lamp_load(lamp, rated, stage.supply).values['watts'], 'W', 2)}"
        if lamp
        else f"a {rated:g} V lamp that draws about as much as the stage"
    )
    key = _key("mlamp", board)
    checks = [
        Check(
            key=f"up.mlamp.wire.{board.id}",
            step=key,
            kind="look",
            point="line stage unplugged, lamp on B+",
            ask=f"Off, tube discharged. The line stage off B+, {told}. Degaussing coil unplugged. A cold lamp may "
            "trip the supply.",
            safety=True,
            board=board.name,
            fact=PLUG,
            rows=frozenset({board.id}),
            boards=frozenset({board.id}),
            of=under,
            serves=(key,),
            why="A fault shows in a lamp, not in the line transistor.",
        ),
        _b_plus(board, "mlamp", stage, own),
        Check(
            key=f"up.mlamp.ripple.{board.id}",
            step=key,
            kind="ripple",
            point=f"ripple of B+, {board.name}",
            ask="Peak to peak, AC coupled.",
            high=RIPPLE * stage.supply,
            why="1 %: more than that bends the edges.",
            nominal=stage.supply,
            **own,
        ),
    ]
    if m.heater is not None and not m.heater.by_line:
        checks += _heater(board, m.heater, "mlamp", own)
    return PowerStep(
        key=key,
        title=f"B+ of {board.name} on a lamp",
        detail=told,
        checks=tuple(checks),
        live=True,
        rewire=True,
        caution=_LIVE,
    )


def _heater(board: BoardFacts, heater: Heater, step: str, own: dict) -> list[Check]:
    glow = _seen(board, step, "glow", "the tube's heater", "It glows dull orange; 20 to 30 s to a picture.", own)
    if heater.by_line:
        return [glow]
    volts = Check(
        key=f"up.{step}.heater.{board.id}",
        step=_key(step, board),
        kind="dc_volts",
        point=f"heater of {board.name}",
        ask="At the neck socket, DC or true rms.",
        low=heater.volts * (1 - HEATER),
        high=heater.volts * (1 + HEATER),
        why="±5 %: too much wears the tube.",
        nominal=heater.volts,
        **own,
    )
    return [volts, glow]


def _probe_on(board: BoardFacts, m: Monitor, under: Of, rising: tuple[str, ...]) -> Check:
    """The probe put on while the tube is discharged, before the line stage has power; it stays on until the anode was read at full B+."""
    back = "The line stage back on B+, the lamp off B+. " if m.stage is not None else ""
    return Check(
        key=f"up.mrise.wire.{board.id}", step=_key("mrise", board), kind="look", point="high-voltage probe on the anode, limiter lamp in",
        ask="Off, tube discharged, the clip lead off its anode. Probe under the cup, its ground clip on the "
        f"braid: fit it now, never move it under power. {back}Brightness fully down. Limiter lamp in the "
        "mains lead.",
        safety=True, board=board.name, fact=PLUG, rows=frozenset({board.id}), boards=frozenset({board.id}), of=under,
        serves=tuple(_key(step, board) for step in (*rising, "mline")),
        why="An open retrace part raises the anode far over its limit in the first second: only a probe "
            "fitted before power shows it.",
    )  # fmt: skip


def _ratio(board: BoardFacts, m: Monitor, step: str, stage: LineStage, own: dict) -> Check:
    """The anode against B+: both go with the mains, their ratio only with the retrace part and the coil."""
    by_sheet = m.anode / stage.supply
    return Check(
        key=f"up.{step}.ratio.{board.id}", step=_key(step, board), kind="tube_ratio", point=f"anode of {board.name} against B+",
        ask="Dark screen. Type what the probe shows, its error, and B+ at the same moment, such as "
        f"{0.4 * m.anode / 1000:.3g} kV probe 3 % at {0.4 * stage.supply:.3g} V.",
        high=by_sheet * (1 + OVER_RATIO), nominal=by_sheet, safety=True, off_now=True,
        why=f"{by_sheet:.4g} times by the sheet, at most 5 % over it. Over that the retrace part is open or too small.",
        caution="Above the limit: off at once. The tube would make X-rays at full B+.", **own,
    )  # fmt: skip


def _volts(board: BoardFacts, m: Monitor, step: str, own: dict) -> Check:
    most = "its marked maximum" if m.maximum else "5 % over nominal"
    return Check(
        key=f"up.{step}.volts.{board.id}", step=_key(step, board), kind="tube_volts", point=f"anode of {board.name}",
        ask="Dark screen. Type what the probe shows and its error, such as 11.8 kV probe 3 %: the error counts against the unit.",
        high=m.anode_most, safety=True, off_now=True, nominal=m.anode, why=f"At most {most}: above it are X-rays.",
        caution="Above the limit: off at once. Check B+ and the line rate first, then the retrace part.", **own,
    )  # fmt: skip


def _quiet(board: BoardFacts, step: str, own: dict) -> Check:
    return _seen(
        board, step, "quiet", "the line stage", "No ticking, no arcing, no smell of ozone, no line and no dot on the screen.", own,
        safety=True, off_now=True,
    )  # fmt: skip


def _rising(board: BoardFacts, m: Monitor, own: dict, under: Of, step: str, rising: tuple[str, ...]) -> PowerStep:
    """The line stage on a B+ that is not full yet: behind the limiter lamp, or on a part of the mains."""
    read = _ratio(board, m, step, m.stage, own) if m.stage is not None else _volts(board, m, step, own)
    checks = [read, _quiet(board, step, own)]
    if step == "mrise":
        checks.insert(0, _probe_on(board, m, under, rising))
        title = f"Line stage of {board.name} behind the limiter lamp"
    else:
        checks.insert(0, _wire(board, step, under, "variable transformer in, limiter lamp out",
                               f"Off. Variable transformer in the mains lead, set to {PART * 100:g} %, the limiter lamp out."))  # fmt: skip
        title = f"Line stage of {board.name} at {PART * 100:g} % of the mains"
    limits = f"at most {read.high:.4g} times B+" if m.stage is not None else f"at most {show(m.anode_most, 'V')}"
    return PowerStep(
        key=_key(step, board),
        title=title,
        detail=f"anode by probe, {limits}",
        checks=tuple(checks),
        live=True,
        rewire=True,
        caution=_PROBE,
    )


def _wire(board: BoardFacts, step: str, under: Of, point: str, ask: str) -> Check:
    return Check(
        key=f"up.{step}.wire.{board.id}",
        step=_key(step, board),
        kind="look",
        point=point,
        ask=ask,
        safety=True,
        board=board.name,
        fact=PLUG,
        rows=frozenset({board.id}),
        boards=frozenset({board.id}),
        of=under,
        serves=(_key(step, board),),
    )


_PROBE = f"{_LIVE} The anode only by a high-voltage probe, never with a plain meter."


def _full(board: BoardFacts, m: Monitor, own: dict, under: Of) -> PowerStep:
    """Full B+: the anode first, then the rest."""
    checks = [
        _wire(board, "mline", under, "limiter lamp out, probe still on",
              "Off. Nothing between the plug and the socket except the isolation. The probe stays where it is. "
              "Brightness fully down: a line or a dot burns the tube within seconds."),
        _volts(board, m, "mline", own),
        _quiet(board, "mline", own),
    ]  # fmt: skip
    if m.stage is not None:
        checks.insert(2, _ratio(board, m, "mline", m.stage, own))
        checks.append(_b_plus(board, "mline", m.stage, own))
    checks.append(
        _seen(
            board,
            "mline",
            "listen",
            "after a minute",
            "Still quiet, its transistor no more than warm.",
            own,
            hold=LISTENED,
        )
    )
    if m.heater is not None and m.heater.by_line:
        checks += _heater(board, m.heater, "mline", own)
    detail = f"anode at most {show(m.anode_most, 'V')}; {show(m.line, 'Hz')} only"
    if m.stage is not None:
        detail += f"; pulses of about {show(m.pulse, 'V', 3)}"
    return PowerStep(
        key=_key("mline", board),
        title=f"Line stage of {board.name} at full B+",
        detail=detail,
        checks=tuple(checks),
        live=True,
        rewire=True,
        caution=_PROBE,
    )


def _shutdown(board: BoardFacts, point: str, own: dict) -> PowerStep:
    """The hold-down: the circuit that stops the line stage when the anode's volts rise; tested where the sheet names how."""
    return PowerStep(
        key=_key("mshut", board), title=f"Over-voltage shutdown of {board.name}", detail=f"by the service sheet, at {point}", checks=(
            _seen(board, "mshut", "acts", f"over-voltage shutdown, at {point}",
                  "Do what the sheet says at this point: the picture goes dark and stays dark. Then off; power on again for the next step.",
                  own, safety=True, why="The shutdown prevents a fault of the retrace part from making X-rays: IEC 60065:2014, clause 6."),
        ), live=True, caution=_LIVE,
    )  # fmt: skip
