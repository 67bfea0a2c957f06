"""What the board picture is drawn from, for every screen that shows one."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from functools import lru_cache
from html import escape

from django.template.loader import render_to_string
from django.urls import reverse
from django.utils.html import format_html
from django.utils.safestring import mark_safe

from idlebench.core.board.device_lines import doubts
from idlebench.core.board.mends import Mend
from idlebench.core.draw.board import Drawn, DrawnDevice, Scene, board_scene
from idlebench.core.judge.heat_map import heat_map
from idlebench.core.text.quantity import show

from ..ui.templatetags.bench import gable, role_title, shape
from .parts import DeviceState
from .state import BoardState, PartState


@dataclass(frozen=True, kw_only=True)
class OnBoard:
    """A part on the picture, as text: its link, classes, place and version, what it says to those who cannot see it, and its
    body. A board may have hundreds."""

    href: str
    css: str
    ref: str
    pk: str
    seen: str
    x: str
    y: str
    label_y: str
    says: str
    chosen: str
    body: str

    @property
    def markup(self) -> str:
        """The part as it stands in the picture: one piece of text, for a page may have hundreds."""
        ref, at = escape(self.ref), f'data-x="{self.x}" data-y="{self.y}" transform="translate({self.x} {self.y})"'
        return mark_safe(
            f'<a href="{escape(self.href)}" class="{self.css}" data-part="{ref}" data-pk="{self.pk}" data-seen="{self.seen}" '
            f'{at} aria-label="{escape(self.says)}"{self.chosen}>{self.body}<text y="{self.label_y}">{ref}</text></a>'
        )


@lru_cache(maxsize=2048)
def _body(drawn: Drawn, sign: str, kept: bool, selected: bool) -> str:
    """The drawing of a part without its place and name: alike parts share one."""
    facts = {"d": drawn, "sign": sign, "kept": kept, "selected": selected}
    return mark_safe(render_to_string("ui/part_svg.html", facts).strip())


def _on_board(
    drawn: Drawn, part: PartState, selected: bool, query: str, side: str, waiting: str, page: str = ""
) -> OnBoard:
    verdict = part.verdict.name
    state = ", swapped" if part.swap else ", old part kept" if part.kept else ""
    sign = "dab" if part.swap else verdict
    chosen = ""
    if selected:
        chosen = (
            mark_safe(" data-selected") if drawn.placed else format_html(' data-selected data-waiting="{}"', waiting)
        )
    return OnBoard(
        href=f"{page}?{query}={drawn.ref}" + (f"&side={side}" if side != "parts" else ""),
        css=f"v-{verdict.split()[0]}" + (" ghost" if drawn.ghost else ""),
        ref=drawn.ref,
        pk=str(part.pk),
        seen=str(part.version),
        x=f"{drawn.x:g}",
        y=f"{drawn.y:g}",
        label_y=f"{drawn.label_y:g}",
        says=f"{drawn.ref}, {show(part.core.value, 'F')}, {verdict}{state}{', on the other side' if drawn.ghost else ''}",
        chosen=chosen,
        body=_body(
            replace(drawn, ref="", x=0.0, y=0.0, label_y=0.0, ghost=False, placed=True), sign, part.kept, selected
        ),
    )


def _device_on_board(drawn: DrawnDevice, place: DeviceState, selected: bool, board: str) -> str:
    """A part that is no capacitor on the picture, as text: it leads to its panel, and is dragged like any other."""
    verdict, half = place.verdict.name, min(drawn.w, drawn.h) * 0.3
    sign = {"replace": f'<path class="cross" d="M-{half:g} -{half:g}L{half:g} {half:g}M-{half:g} {half:g}L{half:g} -{half:g}"/>',
            "doubtful": f'<path class="bar" d="M0 -{half:g}V{half:g}"/>'}.get(verdict, "")  # fmt: skip
    if drawn.done:
        sign = '<circle class="dab" r="1.9"/>'
    says = f"{drawn.ref}, {place.device.title}, {verdict}{', swapped' if place.swap else ''}"
    put = reverse("device_place", args=[board, drawn.ref])
    return (
        f'<a href="?part={escape(drawn.ref)}" class="device v-{verdict.split()[0]}{" here" if selected else ""}" '
        f'data-part="{escape(drawn.ref)}" data-put="{put}" data-seen="" data-x="{drawn.x:g}" data-y="{drawn.y:g}" '
        f'transform="translate({drawn.x:g} {drawn.y:g})" '
        f'aria-label="{escape(says)}"{" data-selected" if selected else ""}>'
        f'<rect x="{-drawn.w / 2:g}" y="{-drawn.h / 2:g}" width="{drawn.w:g}" height="{drawn.h:g}" rx=".8"/>'
        f'{sign}<text y="{drawn.h / 2 + 3.6:g}">{escape(drawn.ref)}</text></a>'
    )


def _scene(board: BoardState, side: str, joins: Sequence[Mend] | None = None) -> Scene:
    """A board's side laid out; joins are drawn in place of its mends."""
    return board_scene(
        board.row.width,
        board.row.height,
        [p.core for p in board.parts],
        board.chips,
        board.zones,
        side,
        [(d.device, d.swap is not None) for d in board.devices if d.device.what != "chip"],
        [m.core for m in board.work.mends] if joins is None else joins,
    )


def board_picture(
    board: BoardState,
    selected: PartState | None = None,
    side: str = "parts",
    query: str = "part",
    waiting: str = "",
    joins: Sequence[Mend] | None = None,
    device: DeviceState | None = None,
    devices: bool = False,
) -> dict[str, object]:
    """The picture of a board's side: parts to scale with their state, chips, zones, and the photo under them if there is one.

    Args:
        query: what a click on a part asks the page for. waiting: the part in the tray that is next after the selected one.
        joins: drawn from end to end in place of the board's mends. device: the part in hand where it is no capacitor; devices: whether such
            parts lead to their panel.
    """
    row, scene = board.row, _scene(board, side, joins)
    by_ref = {p.ref: p for p in board.parts}
    chosen = selected.ref if selected else ""
    others = {d.ref: d for d in board.devices} if devices else {}
    drawn = [
        _device_on_board(d, others[d.ref], device is not None and d.ref == device.ref, str(row.pk))
        for d in scene.devices
        if d.ref in others
    ]
    return {
        "scene": scene,
        "drawn_devices": mark_safe("\n".join(drawn)),
        "side": side,
        "drawn": mark_safe(
            "\n".join(_on_board(d, by_ref[d.ref], d.ref == chosen, query, side, waiting).markup for d in scene.parts)
        ),
        "selected": selected,
        "underlay": row.underlays.filter(side=side).first(),
        "mirror": row.width if side == "solder" else 0,
    }


def boards_to_one_scale(boards: Iterable[BoardState]) -> list[tuple[BoardState, str, dict[str, object]]]:
    """Pictures of some boards' part sides, each with its view box, all to one scale; a part leads to the survey of its board."""
    found = []
    for board in boards:
        scene, page = _scene(board, "parts"), reverse("survey", args=[board.row.pk])
        by_ref = {p.ref: p for p in board.parts}
        parts = [_on_board(d, by_ref[d.ref], False, "part", "parts", "", page).markup for d in scene.parts]
        found.append((board, {"scene": scene, "side": "parts", "drawn": mark_safe("\n".join(parts))}))
    widest = max((picture["scene"].width for _, picture in found), default=0.0)
    return [(board, picture["scene"].view_box_as_wide(widest), picture) for board, picture in found]


@dataclass(frozen=True, kw_only=True)
class PartRow:
    """A part in the list beside the picture, as text."""

    ref: str
    href: str
    here: str
    gable: str
    marked: str
    role: str
    shape: str
    state: str

    @property
    def markup(self) -> str:
        """The row as it stands in the list."""
        return mark_safe(
            f'<a class="item{self.here}" href="{escape(self.href)}">{self.gable}<b class="num w-11">{escape(self.ref)}</b>'
            f'<span class="grid flex-1 min-w-0"><span class="num">{escape(self.marked)}</span>'
            f'<span class="quiet small truncate">{escape(self.role)}</span></span>'
            f'<span class="tag {self.shape}">{escape(self.state)}</span></a>'
        )


def _together(value: float, unit: str) -> str:
    """A value whose unit never goes to the next line."""
    return show(value, unit).replace(" ", "\u00a0")


def part_rows(parts: Iterable[PartState], selected: PartState | None, side: str) -> str:
    """The list of parts beside the picture, each with its state in a word: one piece of text."""
    rows = []
    for part in parts:
        core, verdict = part.core, part.verdict.name
        looks = core.looks if core.looks not in ("", "sound") else part.verdict.shown
        rows.append(
            PartRow(
                ref=part.ref,
                href=f"?part={part.ref}" + (f"&side={side}" if side != "parts" else ""),
                here=" here" if selected and selected.ref == part.ref else "",
                gable=gable(verdict),
                marked=_together(core.value, "F") + (f" {_together(core.volts, 'V')}" if core.volts else ""),
                role=role_title(core.role),
                shape=shape(verdict),
                state="swapped" if part.swap else looks,
            ).markup
        )
    return mark_safe("\n".join(rows))


def device_rows(places: Iterable[DeviceState], selected: DeviceState | None) -> str:
    """The list of parts that are no capacitors, each with its state in a word: one piece of text."""
    rows = []
    for place in places:
        part, verdict = place.device, place.verdict
        state = "swapped" if place.swap else part.looks if part.looks not in ("", "sound") else verdict.shown
        read = ", ".join(one.text for one in part.reads)
        rows.append(
            PartRow(
                ref=part.ref,
                href=f"?part={part.ref}",
                here=" here" if selected and selected.ref == part.ref else "",
                gable=gable(verdict.name),
                marked=part.marked,
                role=", ".join(filter(None, [part.title, f"read {read}" if read else "", *doubts(part)[:1]])),
                shape=shape(verdict.name),
                state=state,
            ).markup
        )
    return mark_safe("\n".join(rows))


def heat_of(board: BoardState) -> dict[str, object]:
    """Where verdicts cluster on a board."""
    judged = [(p.core, p.verdict.name) for p in board.parts if not p.swap]
    return {"heat": heat_map(board.row.width, board.row.height, judged, board.zones)}
