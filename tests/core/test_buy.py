"""One buying plan for many places: the worked figures, what no plan may do, and the same found by trying everything."""

from itertools import product
from unittest import mock

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from idlebench.core.plan import buy_model
from idlebench.core.plan.buy import AIMS, buy
from idlebench.core.plan.buy_model import Costs
from idlebench.core.plan.buy_tables import read_breaks, read_fits, read_shop
from idlebench.core.plan.by_hand import part_by_part
from idlebench.core.plan.column_generation import FREE, SENT, Columns, pays
from idlebench.core.plan.orders import Offer, Shop, Supplier, Wanted, with_spares
from idlebench.core.plan.solve import Patience
from idlebench.core.refusal import BadInput

DEMAND = (
    "job,ref,quantity,fits\n" + "".join(f"S,C{i},1,A:0|B:0.05\n" for i in range(1, 8)) + "S,C8,1,C:0|D:0.10\nS,C9,1,C\n"
)
OFFERS = "part,supplier,pack,breaks,stock,lead_days\nA,N,1,1:0.20 10:0.12,,2\nB,N,1,1:0.15,,2\nD,N,5,5:0.30,,2\nB,S,10,10:0.09,,5\nC,S,1,1:0.40,,5\n"
SUPPLIERS = "supplier,postage,free_above,handling,minimum\nN,3.50,,0.25,\nS,2.90,20,0.25,\n"


def lines(plan):
    return {(o.supplier.name, x.offer.part): (x.quantity, x.price) for o in plan.orders for x in o.lines}


def test_the_worked_plan():
    shop = read_shop(DEMAND, OFFERS, SUPPLIERS)
    plan = buy(shop)
    assert plan.proved and plan.gap == 0
    assert lines(plan) == {("S", "B"): (10, 0.09), ("S", "C"): (2, 0.40)}
    figures = (plan.goods, plan.postage, plan.handling, plan.penalties, plan.total)
    assert figures == pytest.approx((1.70, 2.90, 0.50, 0.35, 5.45))
    # part by part: ten of A for 1.20 rather than seven for 1.40, and two of C, each in a parcel of its own
    assert part_by_part(shop).total == pytest.approx(1.20 + 0.25 + 3.50 + 0.80 + 0.25 + 2.90)
    assert {f.wanted.ref: f.part for f in plan.places} == {**{f"C{i}": "B" for i in range(1, 8)}, "C8": "C", "C9": "C"}


def test_the_shelf_is_drawn_on_and_what_lies_there_is_not_bought():
    plan = buy(read_shop(DEMAND, OFFERS, SUPPLIERS, "part,quantity\nA,7\nC,1\nD,1\n"))
    assert not plan.orders and plan.total == pytest.approx(0.10) and plan.proved
    assert {f.wanted.ref: (f.part, f.source) for f in plan.places}["C8"] == ("D", "shelf")


def test_fewest_parcels_and_soonest():
    # X only at P, Y cheap at Q and dear at P; Q comes a day sooner, but X decides when all is here
    demand = "job,ref,quantity,fits\n,R1,1,X\n,R2,4,Y\n"
    offers = "part,supplier,pack,breaks,stock,lead_days\nX,P,1,1:1.00,,5\nY,P,1,1:3.00,,5\nY,Q,1,1:0.50,,4\nX,R,1,1:9.00,,1\nY,R,1,1:9.00,,1\n"
    shop = read_shop(demand, offers, "supplier,postage,handling\nP,2,0\nQ,2,0\nR,0,0\n")
    cheapest, fewest, soonest = (buy(shop, aim) for aim in AIMS)
    assert cheapest.total == pytest.approx(1 + 2 + 2 + 2) and len(cheapest.orders) == 2
    assert fewest.total == pytest.approx(1 + 12 + 2) and [o.supplier.name for o in fewest.orders] == ["P"]
    assert soonest.days == 1 and soonest.total == pytest.approx(45)
    with pytest.raises(BadInput, match="expected cost, parcels and soonest"):
        buy(shop, "quick")


def test_postage_is_free_from_a_sum_and_more_is_bought_for_it():
    demand, suppliers = ",R1,18,X\n", "supplier,postage,free_above,minimum\nP,6,20,\n"
    head = "job,ref,quantity,fits\n"
    shop = read_shop(head + demand, "part,supplier,breaks\nX,P,1:1.00\n", suppliers)
    plan = buy(shop)
    assert plan.total == pytest.approx(20) and lines(plan)["P", "X"][0] == 20
    least = read_shop(head + ",R1,1,X\n", "part,supplier,breaks\nX,P,1:1.00\n", "supplier,postage,minimum\nP,1,5\n")
    assert buy(least).total == pytest.approx(6)


@pytest.mark.parametrize(
    ("demand", "offers", "said"),
    [
        (",C1,1,A\n", "B,P,1:1,,\n", "“C1”, expected enough pieces"),
        ("J,C1,4,A\nJ,C2,4,A\n", "A,P,1:1,6,\n", "C2 of J"),
        (",C1,4,A\n", "A,P,1:1,3,\n", "A: 4 asked for at most, 1 on the shelf, 3 on offer"),
    ],
)
def test_what_cannot_be_says_which_place_and_what_is_missing(demand, offers, said):
    shelf = "part,quantity\nA,1\n" if "4 asked" in said else None
    shop = read_shop(
        "job,ref,quantity,fits\n" + demand, "part,supplier,breaks,stock,lead_days\n" + offers, "supplier\nP\n", shelf
    )
    if "4 asked" in said:
        assert buy(shop).goods == 3
        shop = read_shop(
            "job,ref,quantity,fits\n" + demand,
            "part,supplier,breaks,stock,lead_days\nA,P,1:1,2,\n",
            "supplier\nP\n",
            shelf,
        )
        said = said.replace("3 on offer", "2 on offer")
    with pytest.raises(BadInput) as refused:
        buy(shop)
    assert said in str(refused.value)


@pytest.mark.parametrize(
    ("table", "row", "said"),
    [
        ("offers", "A,N,1,10:0.12 1:0.20,,", "breaks with rising pieces"), ("offers", "A,N,1,1:0,,", "a price above 0"),
        ("offers", "A,N,1,1:-1,,", "read “-1”"), ("offers", "A,N,0,1:1,,", "1 or more"), ("offers", "A,N,1,1:1,,\nA,N,1,1:2,,", "Line 2 is the same"),
        ("offers", "A,Q,1,1:1,,", "a supplier whose terms are known"), ("offers", "A,N,1,one,,", "pieces and a price"),
        ("offers", "A,N,1,1:1,-2,", "stock"), ("offers", "A,N,1.5,1:1,,", "whole pieces"),
        ("demand", "J,C1,0,A", "1 or more"), ("demand", "J,C1,1,A:-1", "read “-1”"), ("demand", "J,C1,1,A|A", "each part once"),
        ("demand", "J,C1,1,", "a fits"), ("demand", "J,C1,1,A\nJ,C1,1,B", "Line 2 is the same"), ("suppliers", "N,-1,,,", "read “-1”"),
        ("suppliers", "N,1,,,\nN,2,,,", "Line 2 is the same"), ("shelf", "A,-1", "read “-1”"), ("shelf", "A,1\nA,1", "Line 2 is the same"),
    ],
)  # fmt: skip
def test_bad_tables_say_what_is_wrong(table, row, said):
    heads = {
        "demand": "job,ref,quantity,fits",
        "offers": "part,supplier,pack,breaks,stock,lead_days",
        "suppliers": "supplier,postage,free_above,handling,minimum",
        "shelf": "part,quantity",
    }
    rows = {"demand": "J,C1,1,A", "offers": "A,N,1,1:1,,", "suppliers": "N,1,,,", "shelf": "A,1", table: row}
    with pytest.raises(BadInput) as refused:
        read_shop(*(f"{heads[name]}\n{rows[name]}\n" for name in heads))
    assert said in str(refused.value)


def test_cells_are_read():
    assert read_fits(" A : 0 | B") == (("A", 0.0), ("B", 0.0)) and read_breaks("1:€0.20 100:0,1") == (
        (1, 0.2),
        (100, 0.1),
    )
    assert (with_spares(20, 0.12), with_spares(3, 0.12), with_spares(20, 0.8), with_spares(2, 7.0)) == (22, 4, 20, 2)


PARTS = ("A", "B", "C")


@st.composite
def shops(draw):
    """Small shops of which everything can be tried."""
    price = st.integers(5, 200).map(lambda n: n / 100)
    suppliers = {
        name: Supplier(
            name=name,
            postage=draw(st.sampled_from((0.0, 1.0, 3.0))),
            free_above=draw(st.sampled_from((None, 2.0, 4.0))),
            handling=draw(st.sampled_from((0.0, 0.25))),
            minimum=draw(st.sampled_from((0.0, 0.0, 1.5))),
        )
        for name in ("P", "Q")
    }
    offers = []
    for part, name in product(PARTS, suppliers):
        if draw(st.booleans()):
            first, pack = draw(price), draw(st.sampled_from((1, 1, 3)))
            breaks = ((1, first), (4, round(first * 0.7, 4)))[: draw(st.integers(1, 2))]
            offers.append(
                Offer(
                    part=part,
                    supplier=name,
                    pack=pack,
                    breaks=breaks,
                    stock=draw(st.sampled_from((None, 4))),
                    lead_days=draw(st.sampled_from((1.0, 5.0))),
                )
            )
    fits = st.lists(
        st.tuples(st.sampled_from(PARTS), st.sampled_from((0.0, 0.05, 0.5))),
        min_size=1,
        max_size=2,
        unique_by=lambda f: f[0],
    ).map(tuple)
    demand = tuple(
        Wanted("", f"C{i}", draw(st.sampled_from((1, 1, 2))), draw(fits)) for i in range(draw(st.integers(1, 4)))
    )
    return Shop(demand, tuple(offers), suppliers, {"A": draw(st.integers(0, 2))})


def tried(shop, most=7):
    """The least cost, found by trying every part for every place and every number of pieces; None where nothing goes.

    What nobody asked for is not bought, not even to reach a sum.
    """
    best = None
    counts = [range(0, int(min(o.most, most)) + 1, o.pack) for o in shop.useful]
    bought = list(product(*counts))
    priced = []
    for numbers in bought:
        goods, handling, have = dict.fromkeys(shop.suppliers, 0.0), 0.0, dict(shop.shelf)
        for offer, n in zip(shop.useful, numbers, strict=True):
            if n:
                goods[offer.supplier] += n * offer.each(n)
                handling += shop.suppliers[offer.supplier].handling
                have[offer.part] = have.get(offer.part, 0) + n
        used = {o.supplier for o, n in zip(shop.useful, numbers, strict=True) if n}
        if all(goods[name] >= shop.suppliers[name].minimum - 1e-9 for name in used):
            priced.append((sum(goods.values()) + handling + sum(shop.suppliers[n].posts(goods[n]) for n in used), have))
    priced.sort(key=lambda one: one[0])
    for picked in product(*(wanted.fits for wanted in shop.demand)):
        worse = sum(p[1] * w.quantity for p, w in zip(picked, shop.demand, strict=True))
        asked = {
            part: sum(w.quantity for p, w in zip(picked, shop.demand, strict=True) if p[0] == part) for part in PARTS
        }
        for cost, have in priced:
            if best is not None and cost + worse >= best:
                break
            if all(have.get(part, 0) >= n for part, n in asked.items()):
                best = cost + worse
                break
    return best


@given(shops())
@settings(max_examples=40)
def test_no_plan_found_by_trying_everything_is_cheaper(shop):
    if sum(1 for _ in shop.offers) > 4:
        shop = Shop(shop.demand, shop.offers[:4], shop.suppliers, shop.shelf)
    cheapest = tried(shop)
    if cheapest is None:
        return
    plan = buy(shop)
    assert plan.proved
    assert plan.total <= cheapest + 1e-6
    # more than was tried may be bought to reach a sum; otherwise it is the same
    if all(line.quantity <= 7 for order in plan.orders for line in order.lines):
        assert plan.total == pytest.approx(cheapest, abs=1e-6)


@given(shops(), st.integers(0, 3))
@settings(max_examples=40)
def test_quantities_written_one_by_one_or_as_a_span_cost_the_same(shop, span):
    try:
        plan = buy(shop)
    except BadInput:
        return
    with mock.patch.object(buy_model, "QUANTITIES", span):
        assert buy(shop).total == pytest.approx(plan.total, abs=1e-6)


@given(shops(), st.booleans(), st.booleans())
@settings(max_examples=60)
def test_the_bound_of_a_choice_of_parcels_is_below_every_plan_with_them(shop, sent, free):
    """The relaxation over ways, against the whole model solved for the same choice."""
    model = Costs(shop)
    if "P" not in model.used:
        return
    said = {(SENT, "P"): int(sent), (FREE, "P"): int(sent and free)}
    assert pays(shop)
    columns = Columns(shop, model.ever, None, Patience(10.0))
    bound = columns.bound(said, float("inf"))
    if said[FREE, "P"] and "P" not in model.free:
        assert bound.least == float("inf")
        return
    solved = model.solve(10.0, model.fixed(said))
    assert bound.least <= solved.cost + 1e-6
    # and all parcels free to choose: no more than the best plan
    if solved.values is not None:
        assert columns.bound({}, float("inf")).least <= buy(shop).total + 1e-6


def test_tens_of_thousands_of_pieces_are_planned_without_tables_of_them():
    offers = "part,supplier,breaks\nX,P,1:1.00 1000:0.50\nX,Q,1:0.80\n"
    shop = read_shop("job,ref,quantity,fits\n,R1,20000,X\n", offers, "supplier,postage\nP,6\nQ,2\n")
    assert not pays(shop)
    plan = buy(shop)
    assert plan.proved and plan.total == pytest.approx(20_000 * 0.5 + 6)


def test_a_clock_that_has_run_out_gives_what_is_known_by_then():
    ticks = iter(range(0, 10_000, 5))
    plan = buy(read_shop(DEMAND, OFFERS, SUPPLIERS), seconds=1.0, now=lambda: float(next(ticks)))
    assert plan.total == pytest.approx(part_by_part(read_shop(DEMAND, OFFERS, SUPPLIERS)).total)
    assert not plan.proved and 0 < plan.gap <= 1


@given(shops(), st.sampled_from(AIMS))
@settings(max_examples=60)
def test_what_every_plan_keeps_to(shop, aim):
    try:
        plan = buy(shop, aim)
    except BadInput as refused:
        assert refused.field == "demand"
        return
    got = {}
    for filled in plan.places:
        assert filled.part in dict(filled.wanted.fits)
        got[filled.wanted.ref] = got.get(filled.wanted.ref, 0) + filled.quantity
    assert got == {w.ref: w.quantity for w in shop.demand}
    drawn = sum(f.quantity for f in plan.places if f.source == "shelf" and f.part == "A")
    assert drawn <= shop.shelf["A"], "no more is reserved than lies there"
    for order in plan.orders:
        assert order.goods >= order.supplier.minimum - 1e-9
        for line in order.lines:
            assert line.quantity % line.offer.pack == 0 and line.quantity <= line.offer.most
    plain = part_by_part(shop)
    if aim == "cost" and plain is not None:
        assert plan.total <= plain.total + 1e-9, "never dearer than part by part"
    if aim == "cost":
        more = Shop(
            shop.demand,
            (*shop.offers, Offer(part="A", supplier="P", pack=2, breaks=((2, 0.1),), stock=None, lead_days=1.0)),
            shop.suppliers,
            shop.shelf,
        )
        assert buy(more).total <= plan.total + 1e-6, "another offer never makes it dearer"
