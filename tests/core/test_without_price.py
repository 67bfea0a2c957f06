"""Parts without a price: only where nothing that has one is left, ordered all the same, and in no total."""

from itertools import product

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from idlebench.core.plan.buy import AIMS, buy
from idlebench.core.plan.buy_tables import read_shop
from idlebench.core.plan.by_hand import part_by_part
from idlebench.core.plan.orders import SHELF, Offer, Shop, Supplier, Wanted
from idlebench.core.refusal import BadInput

TERMS = "supplier,postage,free_above,handling,minimum\nN,3,,0.25,\nS,2,,0.10,\nM,0,,0,20\n"
HEAD = "part,supplier,pack,breaks,stock,lead_days\n"


def plan(demand, offers, shelf=None, aim="cost"):
    return buy(read_shop("job,ref,quantity,fits\n" + demand, HEAD + offers, TERMS, shelf), aim)


@pytest.mark.parametrize("aim", AIMS)
def test_what_has_a_price_goes_before_what_has_none_however_much_worse_it_is(aim):
    found = plan("J,C1,1,A:0|B:9\n", "A,N,1,,,\nB,N,1,1:5,,\n", aim=aim)
    assert not found.unpriced and found.proved and found.total == pytest.approx(5 + 3 + 0.25 + 9)


def test_where_nothing_has_one_it_is_ordered_and_left_out():
    found = plan("J,C1,1,A:0|B:0.05\nJ,C2,2,U\n", "A,N,1,,,\nB,N,1,1:0.20,,\nU,N,1,,,\nU,S,5,,,\n")
    told = found.as_json(None)
    assert (
        told["unpriced"] == ["C2"]
        and told["goods"] == 0.2
        and told["total"] == pytest.approx(0.2 + 3 + 0.25 + 0.25 + 0.05)
    )
    assert told["orders"][0]["lines"] == [
        {"part": "B", "quantity": 1, "price": 0.2, "cost": 0.2}, {"part": "U", "quantity": 2, "price": None, "cost": None},
    ]  # fmt: skip
    assert [(p["ref"], p["part"], p["from"], p["quantity"]) for p in told["places"]] == [
        ("C1", "B", "N", 1),
        ("C2", "U", "N", 2),
    ]
    assert not found.proved and 0 < found.gap < 0.1, (
        "S takes 0.10 for the line, and nobody can say that another parcel pays"
    )


def test_a_parcel_that_is_sent_anyway_takes_it_and_packs_are_whole():
    found = plan("J,C1,1,B\nJ,C2,2,U\n", "B,S,1,1:0.20,,\nU,N,1,,,\nU,S,5,,,\n")
    assert [(o.supplier.name, [(x.offer.part, x.quantity) for x in o.lines]) for o in found.orders] == [
        ("S", [("B", 1), ("U", 5)])
    ]
    assert found.proved and found.total == pytest.approx(0.20 + 2 + 0.10 + 0.10)


def test_the_shelf_needs_no_price():
    found = plan("J,C1,1,U\nJ,C2,1,U|B:0.10\n", "U,N,1,,,\nB,N,1,1:0.20,,\n", "part,quantity\nU,1\n")
    assert not found.unpriced and {f.wanted.ref: (f.part, f.source) for f in found.places} == {
        "C1": ("U", SHELF),
        "C2": ("B", "N"),
    }
    found = plan("J,C1,3,U\n", "U,N,1,,,\n", "part,quantity\nU,1\n")
    assert [(f.source, f.quantity) for f in found.places] == [(SHELF, 1), ("N", 2)] and found.as_json(None)[
        "unpriced"
    ] == ["C1"]


def test_where_the_priced_run_out_no_more_go_without_than_must():
    """Ten in a pack, and one is needed: the second place still takes what has a price."""
    found = plan("J,C1,1,A|U\nJ,C2,1,A|U\n", "A,N,1,1:0.50,1,\nU,S,10,,,\n")
    assert (
        len(found.unpriced) == 1
        and sorted(f.part for f in found.places) == ["A", "U"]
        and not found.proved
        and found.gap is None
    )


def test_a_least_order_is_not_reached_by_what_has_no_price():
    found = plan("J,C1,1,U\nJ,C2,1,B\n", "U,M,1,,,\nB,N,1,1:0.20,,\nB,M,1,1:0.10,,\n")
    assert {o.supplier.name: o.goods for o in found.orders} == {"M": 0, "N": 0.2}


def test_what_nobody_has_is_still_refused():
    for demand, offers in (
        ("J,C1,1,X|U\n", "B,N,1,1:1,,\n"),
        ("J,C1,3,U\n", "U,N,1,,2,\n"),
        ("J,C1,1,U\nJ,C2,1,U\n", "U,N,1,,1,\n"),
    ):
        with pytest.raises(BadInput, match="on the shelf or on offer"):
            plan(demand, offers)
    with pytest.raises(BadInput, match="breaks"):
        read_shop("ref,fits\nC1,U\n", "part,supplier\nU,N\n", TERMS)


def test_part_by_part_does_not_make_a_price_up():
    shop = read_shop("ref,fits\nC1,U\n", HEAD + "U,N,1,,,\n", TERMS)
    assert part_by_part(shop) is None
    found = buy(shop)
    assert found.total == pytest.approx(3.25) and found.proved and found.as_json(None)["part_by_part"] is None


def offers():
    priced = st.sampled_from([(), ((1, 0.2),), ((1, 0.3), (5, 0.1))])
    return st.builds(
        Offer, part=st.sampled_from("ABC"), supplier=st.sampled_from("NS"), pack=st.sampled_from([1, 3]), breaks=priced,
        stock=st.sampled_from([None, 1, 3, 4]), lead_days=st.just(2.0),
    )  # fmt: skip


@settings(max_examples=60, deadline=None)
@given(
    st.lists(
        st.tuples(st.integers(1, 2), st.lists(st.sampled_from("ABC"), min_size=1, max_size=3, unique=True)),
        min_size=1,
        max_size=4,
    ),
    st.lists(offers(), max_size=4, unique_by=lambda o: (o.part, o.supplier, o.pack)),
    st.dictionaries(st.sampled_from("ABC"), st.integers(0, 2)),
)
def test_no_more_pieces_go_without_a_price_than_must(places, offered, shelf):
    """Against every way of giving parts to places."""
    demand = tuple(
        Wanted("J", f"C{i}", n, tuple((p, 0.1 * k) for k, p in enumerate(fits))) for i, (n, fits) in enumerate(places)
    )
    terms = {name: Supplier(name=name, postage=1.0, free_above=None, handling=0.1, minimum=0.0) for name in "NS"}
    shop = Shop(demand, tuple(offered), terms, shelf)

    def ordered(parts):
        """Least pieces without a price that have to be bought for these parts, whole packs; None where there are not so many."""
        count = 0
        for part in set(parts):
            need = sum(w.quantity for w, p in zip(demand, parts, strict=True) if p == part) - shelf.get(part, 0)
            need -= sum(o.most for o in offered if o.part == part and o.priced and o.most >= o.packed(1))
            if need <= 0:
                continue
            packs = [
                range(0, int(min(o.most, o.packed(int(need)))) + 1, o.pack)
                for o in offered
                if o.part == part and not o.priced
            ]
            ways = [sum(way) for way in product(*packs) if sum(way) >= need]
            if not ways:
                return None
            count += min(ways)
        return count

    least = min(
        (n for parts in product(*(tuple(p for p, _ in w.fits) for w in demand)) if (n := ordered(parts)) is not None),
        default=None,
    )
    if least is None:
        with pytest.raises(BadInput):
            buy(shop)
        return
    found = buy(shop)
    bought = sum(x.quantity for o in found.orders for x in o.lines if x.price is None)
    assert (bought > 0) == (least > 0) and (bought > 0) == bool(found.unpriced)
    assert sum(f.quantity for f in found.places) == sum(w.quantity for w in demand)
    for part in "ABC":
        used = sum(f.quantity for f in found.places if f.part == part and f.source == SHELF)
        assert used <= shelf.get(part, 0)
        for name in "NS":
            sold = sum(
                x.quantity for o in found.orders for x in o.lines if (x.offer.part, o.supplier.name) == (part, name)
            )
            assert sum(f.quantity for f in found.places if (f.part, f.source) == (part, name)) <= sold
    for order in found.orders:
        assert all(x.quantity <= x.offer.most and x.quantity % x.offer.pack == 0 for x in order.lines)
