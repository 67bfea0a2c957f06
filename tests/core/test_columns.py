"""A catalogue of which a few parts changed is the one that would be laid out anew."""

from dataclasses import replace

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from idlebench.catalogue import house_columns
from idlebench.core.choose.columns import Columns

ALL = house_columns().parts
CHANGES = st.lists(
    st.tuples(
        st.integers(0, len(ALL) - 1),
        st.sampled_from(["stock", "price", "value", "volts", "height", "new"]),
        st.floats(1e-6, 400, allow_nan=False),
    ),
    max_size=12,
)


@given(CHANGES)
def test_a_few_changes_are_the_same_as_all_anew(changes):
    some = {part.part: part for part in ALL[::7]}
    laid, new = Columns.of(some.values()), {}
    for i, what, number in changes:
        part = list(some.values())[i % len(some)]
        if what == "new":
            part = replace(part, part=f"NEW-{number:g}", value=number * 1e-6)
        else:
            part = replace(part, **{what: int(number) if what == "stock" else number})
        new[part.part] = part
    found, anew = laid.changed(new.values()), Columns.of({**some, **new}.values())
    assert found.parts == anew.parts
    for name, column in anew.base.items():
        np.testing.assert_array_equal(found.base[name], column, err_msg=str(name))
