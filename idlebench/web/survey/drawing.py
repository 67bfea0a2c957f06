"""What the board picture is drawn from, for every screen that shows one."""

from __future__ import annotations

from idlebench.core.geometry import board_scene
from idlebench.core.heat_map import heat_map

from ..jobs.state import BoardState, PartState


def board_picture(board: BoardState, selected: PartState | None = None, side: str = "parts") -> dict[str, object]:
    """The picture of a board's side: parts to scale with their state, chips, zones, and the photo under them if there is one."""
    row = board.row
    scene = board_scene(row.width, row.height, [p.core for p in board.parts], board.chips, board.zones, side)
    by_ref = {p.ref: p for p in board.parts}
    return {
        "scene": scene,
        "side": side,
        "drawn": [(d, by_ref[d.ref]) for d in scene.parts],
        "selected": selected,
        "underlay": row.underlays.filter(side=side).first(),
        "mirror": row.width if side == "solder" else 0,
    }


def heat_of(board: BoardState) -> dict[str, object]:
    """Where verdicts cluster on a board."""
    judged = [(p.core, p.verdict.name) for p in board.parts if not p.swap]
    return {"heat": heat_map(board.row.width, board.row.height, judged, board.zones)}
