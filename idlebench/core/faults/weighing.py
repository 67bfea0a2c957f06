"""How well a hypothesis fits all readings at once, where mains, loads and tolerances may be off for all of them together.

What is not known is fitted and not assumed: mains ±10 %, each rail's load ±30 %, diode drops, windings and the parts' tolerances are
drawn many times for the sound supply. Their covariance, scaled by what a hypothesis gives, stands beside the meter's own error, so
mains that are 6 % high move every reading that follows them and accuse nobody.

Source: a normal likelihood with the nuisances integrated out (Bishop, Pattern Recognition and Machine Learning (2006), 2.3.3); how often
a hand slips: workshop practice, because nobody has counted it.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..simulate.rectifier import Floats

Bools = NDArray[np.bool_]
#: How often a hand slips, and how likely any one wrong reading is then.
SLIP, ANY = 0.02, 0.02
#: How far a hypothesis may scale what tolerances leave of a sound supply's reading.
LEAST, MOST = 0.1, 4.0
#: Off the scale counts as this, in widths.
FAR = 6.0
#: Readings of something unknown: so many are as a sound supply's, the others anywhere up to this many times the larger of the two.
AS_SOUND, ANYWHERE, OFF_SCALE = 0.7, 2.0, 0.1
#: And no narrower than so many times the error.
LEAST_WIDE = 20.0
#: A second reading of a point that is off, where what is wrong is not known: how like the first it is.
WITH_IT = 0.3


@dataclass(frozen=True, kw_only=True)
class Fit:
    """What readings say of each hypothesis. logs: log likelihood, in units of the meter's error. misses: squared, in widths."""

    logs: Floats
    misses: Floats


def weigh(read: Floats, there: Floats, error: Floats, together: Floats, coarse: Floats | None = None) -> Fit:
    """How well each hypothesis fits all readings.

    Args:
        read: the n readings, infinite where off the scale.
        there: what each of h hypotheses gives, h × n, the sound supply first.
        error: the meter's and the model's own error of each reading, n.
        together: covariance of what is not known, of the sound supply, n × n.
        coarse: how far what a hypothesis gives is itself off, h × n.

    Returns:
        A log likelihood and a squared miss for each hypothesis, the sound supply first.

    >>> one = weigh(np.array([5.0]), np.array([[5.0], [4.0]]), np.array([0.1]), np.zeros((1, 1)))
    >>> [round(float(miss)) for miss in one.misses]
    [0, 100]
    """
    many, count = there.shape
    if not count:
        return Fit(logs=np.zeros(many), misses=np.zeros(many))
    open_, shown = ~np.isfinite(read), np.isfinite(there)
    both = shown & ~open_
    off = np.where(both, np.where(open_, 0.0, read) - np.where(shown, there, 0.0), 0.0)
    # off the scale where the other is not: as a slip, and no more is known of it
    wrong = shown == open_
    scale = _scale(there, shown)
    spread = together * scale[:, :, None] * scale[:, None, :] * (both[:, :, None] & both[:, None, :])
    own = error**2 + (coarse**2 if coarse is not None else np.zeros_like(there))
    whole = spread + np.eye(count) * own[:, None, :]
    inverse = np.linalg.inv(whole)
    turned = np.einsum("hij,hj->hi", inverse, off)
    square = np.einsum("hi,hi->h", off, turned)
    size = np.linalg.slogdet(whole)[1] - 2 * np.log(error).sum()
    straight = -(square + size) / 2
    # any one reading may be a slip: the others without it, from the inverse of the whole
    sharp = np.einsum("hii->hi", inverse)
    without = -(square[:, None] - turned**2 / sharp + size[:, None] + np.log(sharp * error**2)) / 2
    slips = np.logaddexp.reduce(np.where(wrong, -np.inf, without), axis=1) + np.log(SLIP * ANY)
    logs = np.logaddexp(straight + np.log(1 - SLIP), slips) + wrong.sum(axis=1) * np.log(SLIP * ANY)
    return Fit(logs=logs, misses=square + wrong.sum(axis=1) * FAR**2)


def _scale(there: Floats, shown: Bools) -> Floats:
    """How much larger a reading is than the sound supply's, and so what tolerances leave of it."""
    sound = np.abs(there[0])
    usable = shown & np.isfinite(sound) & (sound > 0)
    share = np.abs(np.where(usable, there, 0.0)) / np.where(np.isfinite(sound) & (sound > 0), sound, 1.0)
    return np.where(usable, np.clip(share, LEAST, MOST), 1.0)


def unknown(
    read: Floats, sound: Floats, error: Floats, together: Floats, points: Sequence[object] | None = None
) -> float:
    """Log likelihood of the readings where something is wrong that no hypothesis knows.

    Args:
        read: the readings, infinite where off the scale.
        sound: what a sound supply gives.
        error: of each reading.
        together: covariance of what is not known.
        points: what each was read of; where one of a point is off, others of it may be off with it and pay no more.

    Returns:
        In the same units as weigh.
    """
    found, paid = 0.0, set[object]()
    points = points if points is not None else range(len(read))
    spread = np.diag(together) if len(read) else ()
    for value, should, own, more, point in zip(read, sound, error, spread, points, strict=True):
        if not (np.isfinite(value) and np.isfinite(should)):
            found += np.log(OFF_SCALE if np.isfinite(value) != np.isfinite(should) else AS_SOUND)
            continue
        width = own**2 + more
        near = np.exp(-((value - should) ** 2) / 2 / width) * np.sqrt(own**2 / width)
        wide = own * np.sqrt(2 * np.pi) / max(ANYWHERE * max(abs(value), abs(should)), LEAST_WIDE * own)
        if AS_SOUND * near < (1 - AS_SOUND) * wide and point in paid:
            found += np.log(WITH_IT)
            continue
        if AS_SOUND * near < (1 - AS_SOUND) * wide:
            paid.add(point)
        found += np.log(AS_SOUND * near + (1 - AS_SOUND) * min(wide, 1.0))
    return float(found)


def covariance(draws: Floats) -> Floats:
    """What the unknown makes of readings together, from n × m draws of the sound supply; a reading that is off the scale has none.

    Args:
        draws: a row for each reading, infinite where off the scale.

    Returns:
        n × n.
    """
    count = len(draws)
    if not count:
        return np.zeros((0, 0))
    good = np.isfinite(draws).all(axis=1)
    kept = np.where(good[:, None], np.where(np.isfinite(draws), draws, 0.0), 0.0)
    centred = kept - kept.mean(axis=1, keepdims=True)
    return centred @ centred.T / max(draws.shape[1] - 1, 1)


def fitted(read: Floats, there: Floats, error: Floats, together: Floats, along: Floats) -> float:
    """How far an unknown is off what was assumed, by what was read: its mean once the readings are known.

    Args:
        read: the readings.
        there: what the leading hypothesis gives.
        error: of each reading.
        together: covariance of the readings.
        along: covariance of the unknown with each reading.

    Returns:
        In the unknown's own units.
    """
    both = np.isfinite(read) & np.isfinite(there)
    if not both.any():
        return 0.0
    off = (np.where(np.isfinite(read), read, 0.0) - np.where(np.isfinite(there), there, 0.0))[both]
    whole = together[np.ix_(both, both)] + np.diag(error[both] ** 2)
    return float(along[both] @ np.linalg.solve(whole, off))
