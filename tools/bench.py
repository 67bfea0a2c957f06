"""Measures what the issues ask for: choosing for a whole unit, and the server time of each main page."""

from __future__ import annotations

import random

from asked import asked, table
from faulting import main as faulting
from growth import growth
from kept import kept
from ordinary_places import WANTED, ordinary_places, unserved
from pages import acts, large_board, on_a_phone, pages
from plans import plans
from simulating import simulating
from starting import starting
from timing import best_of_both, median_ms
from trials import main as trials
from waiting import waiting
from with_demo import demo_home


def choosing() -> None:
    """Core alone: judge, decide and rank unit B's places against the house catalogue."""
    from idlebench.catalogue import house_columns
    from idlebench.core.choose.need import need_of
    from idlebench.core.choose.rank import rank_many
    from idlebench.web.records.models import Part

    parts = [p.to_core() for p in Part.objects.filter(board__unit__name="B")]
    columns, needs = house_columns(), [need_of(part) for part in parts]
    shown = median_ms(lambda: [r.candidates for r in rank_many(needs, columns)], 5)
    asked(
        f"core choose of {len(parts)} places against {len(columns)} parts, every reason written out", shown, 120, "ms"
    )


def ordinary() -> None:
    """How many of a table of ordinary places find an ordinary part first."""
    missed, places = unserved(), ordinary_places()
    share = 1 - len(missed) / len(places)
    asked(f"of {len(places)} ordinary places find a fitting part first", 100 * share, 100 * WANTED, "%", least=True)


#: Catalogues and boards that ranking is measured on.
PARTS, PLACES = (5_000, 20_000, 80_000), (75, 150, 300)
#: The most that ranking 150 places of 20 000 parts may take, times the bare masks.
MOST_TIMES = 4.0


def ranking() -> None:
    """rank_many in one run against one bare numpy pass of value, volts and diameter masks for the same places, as a ratio."""
    import resource

    from idlebench.core.choose.need import need_of
    from idlebench.core.choose.rank import rank_many

    for size in PARTS:
        columns = _catalogue(size)
        for count in PLACES:
            for name, parts in (("as on a board", _board(count)), ("all different", _different(count))):
                needs = [need_of(part) for part in parts]
                whole, bare = best_of_both(
                    lambda needs=needs, columns=columns: rank_many(needs, columns),
                    lambda needs=needs, columns=columns: [_masks(n, columns) for n in needs],
                )
                words = f"rank {count:>3} places {name} of {size:>5} parts, × bare masks ({bare:.1f} ms)"
                asked(words, whole / bare, MOST_TIMES if (size, count) == (20_000, 150) else None, "×")
    peak = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
    asked("peak memory of this process so far", peak, 300, "MB")


def _catalogue(size: int):
    """The house catalogue, again and again with values, sizes and prices a little off, up to a size."""
    from dataclasses import replace

    from idlebench.catalogue import house_columns
    from idlebench.core.choose.rules import Columns

    dice, house = random.Random(5), house_columns().parts
    parts = []
    for i in range(size):
        part, turn = house[i % len(house)], i // len(house)
        off = 1 + dice.uniform(-0.02, 0.02) * (turn > 0)
        wide = part.diameter * (1 + 0.02 * (turn % 3))
        parts.append(
            replace(
                part,
                part=f"{part.part}/{turn}",
                value=part.value * off,
                diameter=wide,
                price=part.price * dice.uniform(0.7, 1.4),
            )
        )
    return Columns.of(parts)


def _board(count: int):
    """Places as they come on boards: the demo's two units over and over, each time a little hotter."""
    from idlebench.web.records.models import Part

    parts = [p.to_core() for p in Part.objects.filter(board__unit__name__in="AB").order_by("id")]
    return [
        parts[i % len(parts)].with_(ambient=(parts[i % len(parts)].ambient or 40.0) + i // len(parts))
        for i in range(count)
    ]


def _different(count: int):
    """Places of which no two ask the same."""
    from idlebench.core.board.parts import Fitted

    dice = random.Random(7)
    roles = (
        "decoupling",
        "bulk",
        "converter_output",
        "coupling",
        "timing",
        "startup",
        "filter",
        "regulator_output",
        "unknown",
    )
    sizes = ((5, 11), (6.3, 11), (8, 11.5), (10, 16), (12.5, 20), (16, 25))
    values = (1, 2.2, 4.7, 10, 22, 33, 47, 100, 220, 470, 1000, 2200, 4700)
    parts = []
    for i in range(count):
        wide, high = dice.choice(sizes)
        parts.append(
            Fitted(
                ref=f"C{i + 1}",
                value=dice.choice(values) * 1e-6 * (1 + 1e-6 * i),
                volts=dice.choice((6.3, 10, 16, 25, 35, 50)),
                role=dice.choice(roles),
                diameter=wide,
                height=high,
                ripple=dice.choice((None, None, 0.05, 0.3)),
                ambient=dice.choice((None, 50.0, 60.0)),
                room_height=dice.choice((None, None, 30.0)),
                mounting=dice.choice(("radial",) * 5 + ("axial",)),
            )
        )
    return parts


def _masks(need, columns):
    value = columns["value"]
    inside = (value >= need.value_low) & (value <= need.value_high) & (columns["volts"] >= need.volts)
    return inside & (columns["diameter"] <= (need.diameter or 1e9))


def supplies() -> None:
    """The rectifier simulation on the values of the reference table."""
    from idlebench.core.circuit.supply import Load, Supply, simulate

    for supply in (
        Supply(
            topology="bridge",
            source=9,
            frequency=50,
            source_resistance=0.6,
            store=4700e-6,
            store_esr=0.030,
            load=Load("current", 1.0),
        ),
        Supply(
            topology="half",
            source=12,
            frequency=50,
            source_resistance=2.0,
            store=1000e-6,
            store_esr=0.1,
            load=Load("current", 0.12),
        ),
        Supply(
            topology="bridge",
            source=230,
            frequency=50,
            source_resistance=4.0,
            store=100e-6,
            store_esr=0.6,
            load=Load("current", 0.16),
        ),
    ):
        taken = median_ms(lambda supply=supply: simulate(supply), 21)
        asked(f"rectifier and reservoir, {supply.topology} {supply.source:g} V", taken, 20, "ms")


if __name__ == "__main__":
    with demo_home() as home:
        starting(str(home))
        supplies()
        choosing()
        ordinary()
        ranking()
        plans()
        simulating()
        faulting()
        trials(50)
        pages()
        acts()
        large_board(str(home))
        on_a_phone(str(home))
        waiting(home)
        growth()
        kept()
        table()
