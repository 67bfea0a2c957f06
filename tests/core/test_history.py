"""A rail over time, what a step looks like while it goes well, and where a rail is read."""

from hypothesis import given
from hypothesis import strategies as st

from idlebench.core.draw.history import HEIGHT, LEFT, RIGHT, WIDTH, Session, history
from idlebench.core.prove import BoardFacts, power_up
from idlebench.core.prove.minute import minute_of
from idlebench.core.text.rails_and_chips import read_rail

DAY = 86_400.0


def test_time_without_power_takes_no_room():
    """300 s, a day without power, 100 s more: the second session begins at three quarters, and says what was done before it."""
    sessions = [Session(0, 300, "full"), Session(DAY, None, "feed")]
    events = [(DAY / 2, "PS-1 C4: GP in"), (DAY + 50, "too late")]
    drawn = history([(60, 5.0), (290, 5.02), (DAY + 10, 5.4)], sessions, events, 4.75, 5.25, DAY + 100)
    assert [(m.number, m.title, m.before) for m in drawn.marks] == [(1, "full", ""), (2, "feed", "PS-1 C4: GP in")]
    room = WIDTH - LEFT - RIGHT
    assert abs(drawn.marks[1].x - (LEFT + 0.75 * room)) < 0.2 and drawn.marks[1].shown == "2 ◆"
    assert [d.inside for d in drawn.dots] == [True, True, False] and drawn.dots[2].y < drawn.band[0] < drawn.dots[0].y
    assert "3 readings over 7 min" in drawn.says and len(drawn.lines) == 2


def test_one_reading_shows_nothing_over_time():
    sessions = [Session(0, 300, "full")]
    assert history([(60, 5.0)], sessions, [], 4.75, 5.25, 400) is None
    assert history([(60, 5.0), (70, 5.0)], [], [], 4.75, 5.25, 400) is None, "read at no time that is known"
    assert history([(60, 5.0), (70, 5.0)], sessions, [], 4.75, 5.25, 400) is not None


@given(
    st.lists(st.tuples(st.floats(0, 1e6), st.floats(-400, 400)), max_size=15),
    st.lists(st.tuples(st.floats(0, 1e6), st.floats(0, 1e4)), max_size=8),
)
def test_every_reading_is_drawn_once_and_on_the_picture(readings, spans):
    sessions, at = [], 0.0
    for gap, length in spans:
        sessions.append(Session(at + gap, at + gap + length, "x"))
        at += gap + length
    drawn = history(readings, sessions, [], -5.5, -4.5, at)
    held = [r for r in readings if sessions and r[0] >= sessions[0].began]
    assert (drawn is None) == (len(held) < 2)
    if drawn is not None:
        assert len(drawn.dots) == len(held)
        assert all(LEFT <= d.x <= WIDTH - RIGHT + 0.1 and 0 <= d.y <= HEIGHT for d in drawn.dots)


def test_every_step_under_power_says_what_it_looks_like():
    rails = tuple(read_rail(line) for line in ("+5 V 1 A", "+12 V 1 A"))
    boards = [BoardFacts(name="PS", supply="linear", rails=rails, source_volts=9.0), BoardFacts(name="MB")]
    for way in ("lamp", "variable", "limited", "straight"):
        for step in power_up(boards, way):
            told = minute_of(step)
            assert (told is not None) == step.live, step.key
            assert told is None or all(told.rows)
    lamp = next(s for s in power_up(boards, "lamp") if s.key == "limited")
    assert "lamp is bright" in minute_of(lamp).first
    rising = next(s for s in power_up(boards, "variable") if s.key == "limited")
    assert "lamp" not in minute_of(rising).first
