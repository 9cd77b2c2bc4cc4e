"""A phase vocoder that leaves every onset as it was: the engine of pitch-kept slowing, one band at a time.

Frames of the source are laid down at other distances, each bin turned on by the frequency that was measured in it,
so that steady sound keeps its pitch; around an onset the source itself is copied, so that attacks keep their shape
and place. Frames before an onset see nothing of it and frames after see nothing from before it, except in bins where
the sound only goes on: those keep turning through the onset.

Places are frames of the source (`p`) or of the output (`q`). Both count from the start of the recording, whatever
part of it is given, so that two renders of one place agree once their sounding partials began in both.

Source: the recipe follows J. Laroche and M. Dolson, "Improved phase vocoder time-scale modification of audio", IEEE
Trans. Speech and Audio Proc. 7 (1999) 323-332 (regions around peaks turn together), F. Auger and P. Flandrin,
"Improving the readability of time-frequency representations", IEEE Trans. Signal Proc. 43 (1995) 1068-1089 (frequency
from the derivative of the window), and A. Röbel, "A new approach to transient processing in the phase vocoder",
DAFx 2003 (restart at onsets). The trapezoid rule for the turning is what keeps bends from lagging.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import cache
from typing import Final

import numpy as np
import scipy.fft

from usagi.core.audio import Sound
from usagi.core.audio.levels import fade_gain
from usagi.core.audio.onsets import Frames
from usagi.core.audio.regions import Bins, Floats, Mask, Regions, mixed, regions_of, windowed

BATCH: Final = 24  # frames worked on together: their spectra stay in the processor's cache
OVERLAP: Final = 4  # frames over each place of the output
CONTINUES: Final = 2.0  # a bin goes on through an onset when its power grows by less
SMOOTH_BINS: Final = 3
MOST_LIFT: Final = 1.6  # of a thinned fade: 4 dB
SILENT: Final = 1e-6  # power of a fade, summed
RETURN: Final = 4.8  # the map is nominal again this many copied lengths behind an onset: 144 ms of 30
LEAST_WEIGHT: Final = 3e-2  # of the frames over a place, against 1.5 in steady sound: less would lift what lies there


@dataclass(frozen=True, slots=True)
class Band:
    """Sizes of one resolution, in frames of its own rate."""

    window: int  # even
    ahead: int  # of an onset that is copied
    copied: int  # behind an onset
    gate: int  # behind an onset before which later frames see nothing
    entry: int  # fade from the vocoder into the copy, ending `ahead` of the onset

    @property
    def hop(self) -> int:
        return self.window // OVERLAP


@dataclass(frozen=True, slots=True)
class _Anchor:
    """An onset: source frame, output frame, how much is copied behind it, which bins go on through it."""

    p: int
    q: int
    copied: int
    continuing: Mask


@dataclass(frozen=True, slots=True)
class _Plan:
    """Where each frame is laid (q) and read (p), the anchors that hide what lies after and before it (or -1), and
    whether phases are carried over an onset just before it."""

    q: Frames
    p: Frames
    next_anchor: Frames
    last_anchor: Frames
    over: Mask


Report = Callable[[float], None]  # hears the share, 0 to 1, that is done; it may end the work by raising


def unreported(_: float) -> None:
    """For a share that nobody asks for."""


def stretched(
    pcm: Sound,
    *,
    speed: float,
    at: int,
    onsets: Frames,
    band: Band,
    steady_below: tuple[int, Mask] | None = None,
    wanted: tuple[int, int] | None = None,
    report: Report = unreported,
) -> Sound:
    """The sound laid out at another speed.

    Parameters
    ----------
    pcm : float32, shape (frames, channels): source frames `[at, at + frames)`.
    speed : source frames per output frame.
    onsets : source frames, counted from the start of `pcm`, rising.
    steady_below : a bin, and for every onset whether it is struck below that bin; where it is not, those bins go on.
    wanted : the output frames that are; before them only phases are followed, after them nothing is done.

    Returns : float32, shape (round((at + frames) / speed) - round(at / speed), channels); its first frame is output
    frame round(at / speed).
    """
    size = band.window
    start_q = round(at / speed)
    length = round((at + len(pcm)) / speed) - start_q
    channels = pcm.shape[1]
    out = np.zeros((channels, length + 2 * size), dtype=np.float32)
    if length <= 0:
        return np.zeros((0, channels), dtype=np.float32)
    lines = np.ascontiguousarray(np.pad(pcm, ((size, size), (0, 0))).T)
    anchors = _anchors(mixed(lines), onsets, speed, at, start_q, band, steady_below)
    plan = _plan(anchors, speed, at, start_q, length, band)
    first, last = (start_q, start_q + length) if wanted is None else wanted
    first_wanted, last_wanted = max(0, first - start_q) - size, last - start_q + size
    weight = np.zeros(length + 2 * size, dtype=np.float32)
    turned = _lay_down(lines, plan, anchors, band, out, weight, (first_wanted, last_wanted), report)
    out /= np.maximum(weight, LEAST_WEIGHT)
    for anchor, rotation in zip(anchors, turned, strict=True):
        if rotation is not None and anchor.q + anchor.copied > first_wanted and anchor.q < last_wanted:
            _copy(lines, out, anchor, rotation, band)
    return np.ascontiguousarray(out[:, size : size + length].T)


def _anchors(
    mix: Floats,
    onsets: Frames,
    speed: float,
    at: int,
    start_q: int,
    band: Band,
    steady_below: tuple[int, Mask] | None,
) -> list[_Anchor]:
    size, half = band.window, band.window // 2
    hann = _hann(size)
    anchors = []
    for i, onset in enumerate(onsets):
        p = int(onset)
        q = round((p + at) / speed) - start_q
        copied = band.copied
        if i + 1 < len(onsets):
            gap = int(onsets[i + 1]) - p
            copied = min(copied, min(gap, round(gap / speed)) - band.ahead - band.entry)
        copied = max(copied, band.gate + 1)
        place = p + size
        pieces = np.zeros((2, size), dtype=np.float32)
        pieces[0, :half] = mix[place - band.ahead - half : place - band.ahead] * hann[:half]
        pieces[1, half:] = mix[place : place + half] * hann[half:]
        spectra = scipy.fft.rfft(pieces, axis=1)
        power = spectra.real**2 + spectra.imag**2
        kernel = np.ones(SMOOTH_BINS, dtype=np.float32)
        before, after = (np.convolve(row, kernel, "same") for row in power)
        continuing = after < CONTINUES * before
        if steady_below is not None and not steady_below[1][i]:
            continuing[: steady_below[0]] = True
        anchors.append(_Anchor(p, q, copied, continuing))
    return anchors


def _plan(anchors: list[_Anchor], speed: float, at: int, start_q: int, length: int, band: Band) -> _Plan:
    """Frames on a fixed raster of the output, and one at each end of what is copied."""
    hop, half = band.hop, band.window // 2
    raster = np.arange(-(-(start_q - half) // hop) * hop, start_q + length + half, hop) - start_q
    keep = np.ones(len(raster), dtype=bool)
    knots_q, knots_p = [float(-(10**9))], [(start_q - 10**9) * speed - at]
    extra: list[tuple[int, int]] = []
    for i, anchor in enumerate(anchors):
        begin, end = anchor.q - band.ahead, anchor.q + anchor.copied
        keep &= (raster < begin - hop // 8) | (raster > end + hop // 8)
        extra += [(begin, anchor.p - band.ahead), (end, anchor.p + anchor.copied)]
        knots_q += [begin, end]
        knots_p += [anchor.p - band.ahead, anchor.p + anchor.copied]
        nominal_p = anchor.p + anchor.copied + band.copied * RETURN
        nominal_q = (nominal_p + at) / speed - start_q
        following = anchors[i + 1] if i + 1 < len(anchors) else None
        if nominal_q > end and (following is None or nominal_q < following.q - band.ahead):
            knots_q.append(nominal_q)
            knots_p.append(nominal_p)
    knots_q.append(float(10**9))
    knots_p.append((start_q + 10**9) * speed - at)
    raster = raster[keep]
    q = np.concatenate([raster, np.array([e[0] for e in extra], dtype=np.int64)])
    p = np.concatenate(
        [
            np.round(np.interp(raster, knots_q, knots_p)).astype(np.int64),
            np.array([e[1] for e in extra], dtype=np.int64),
        ]
    )
    order = np.lexsort((p, q))
    q, p = q[order], p[order]
    places = np.array([anchor.q for anchor in anchors], dtype=np.int64)
    last = np.searchsorted(places - band.ahead, q, side="left") - 1
    following_index = np.where(last + 1 < len(anchors), last + 1, -1)
    over = np.zeros(len(q), dtype=bool)
    over[1:] = last[1:] > last[:-1]
    return _Plan(q, p, following_index, last, over)


def _lay_down(
    lines: Floats,
    plan: _Plan,
    anchors: list[_Anchor],
    band: Band,
    out: Floats,
    weight: Floats,
    span: tuple[int, int],
    report: Report,
) -> list[Floats | None]:
    """Add every frame to the output; the turning of each bin where each anchor's copy begins."""
    size, half = band.window, band.window // 2
    hann = _hann(size)
    hann_squared = hann**2
    gate = _Gates(plan, anchors, band)
    turning = _Turning(plan, anchors, half + 1)
    both = np.lib.stride_tricks.sliding_window_view(lines, size, axis=1)
    one = np.lib.stride_tricks.sliding_window_view(mixed(lines)[np.newaxis], size, axis=1)
    first_wanted, last_wanted = span
    count = int(np.searchsorted(plan.q, last_wanted + half))
    for first in range(0, count, BATCH):
        report(first / count)
        rows = slice(first, min(first + BATCH, count))
        q, p = plan.q[rows], plan.p[rows]
        inside = (q + half > first_wanted) & (q + size - half >= 0) & (q + half <= out.shape[1] - size)
        laid = np.flatnonzero(inside)
        views = both if len(laid) else one  # where only phases are followed, those of the mix are enough
        reads = np.clip(p + half, 0, views.shape[1] - 1)  # lines are padded by a window: p - half + size
        shape = gate.of(rows)
        frames = views[:, reads]
        ungated = None
        if shape is not None:
            ungated = mixed(scipy.fft.rfft(frames[:, shape.rows], axis=2))
            frames[:, shape.rows] *= shape.gates
        plain = scipy.fft.rfft(frames, axis=2)
        spectra = windowed(plain)
        regions = regions_of(mixed(plain), mixed(spectra))
        if shape is not None and ungated is not None:
            regions = regions.going_on(shape.rows, regions_of(ungated, windowed(ungated)), shape.continuing)
        turns = turning.through(rows, regions)
        if len(laid) == 0:
            continue
        own_rows = slice(int(laid[0]), int(laid[-1]) + 1)  # they follow one another
        sound = scipy.fft.irfft(spectra[:, own_rows] * turns[own_rows], size, axis=2)
        sound *= hann
        gates = {} if shape is None else dict(zip(shape.rows.tolist(), shape.gates, strict=True))
        for i, row in enumerate(laid.tolist()):
            begin = int(q[row]) + size - half
            own, squared = sound[:, i], hann_squared
            if row in gates:
                own, squared = own * gates[row], squared * gates[row] ** 2
            out[:, begin : begin + size] += own
            weight[begin : begin + size] += squared
    report(1.0)
    return turning.at_anchors


class _Turning:
    """The phase by which each bin is turned, frame by frame."""

    def __init__(self, plan: _Plan, anchors: list[_Anchor], bins: int) -> None:
        self.at_anchors: list[Floats | None] = [None] * len(anchors)
        self._plan, self._anchors = plan, anchors
        self._turned = np.zeros(bins, dtype=np.float32)
        self._frequency = np.zeros(bins, dtype=np.float32)
        step = np.zeros(len(plan.q), dtype=np.float32)  # frames laid down beyond those read, half: for a mean of two
        step[1:] = 0.5 * (np.diff(plan.q) - np.diff(plan.p))
        self._step: Floats = step

    def through(self, rows: slice, regions: Regions) -> Bins:
        """The rotation of each bin of a batch, shape (frames, bins)."""
        frequency = regions.spread(regions.frequency)
        earlier = np.concatenate([self._frequency[np.newaxis], frequency[:-1]])
        row = np.repeat(np.arange(len(frequency)), [part.stop - part.start for part in regions.of_frame])
        speed = earlier[row, regions.peaks] + regions.frequency
        advance = _wrapped((self._step[rows][row] * speed).astype(np.float32))
        turns = np.empty(len(row), dtype=np.float32)
        turned = _wrapped(self._turned)
        for frame, part in enumerate(regions.of_frame, rows.start):
            peaks = regions.peaks[part]
            turns[part] = turned[peaks] + advance[part]
            last = self._plan.last_anchor[frame]
            if self._plan.over[frame]:
                turns[part] *= self._anchors[last].continuing[peaks]
            turned = turns[part].repeat(regions.widths[part])
            if self._plan.over[frame]:
                self.at_anchors[last] = turned
        self._turned, self._frequency = turned, frequency[-1]
        return regions.spread(_turn(turns))


def _wrapped(turns: Floats) -> Floats:
    """Angles wrapped to -pi to pi."""
    full = np.float32(2 * np.pi)
    out: Floats = turns - full * np.rint(turns * np.float32(1 / (2 * np.pi)))
    return out


def _turn(radians: Floats) -> Bins:
    out = np.empty(radians.shape, dtype=np.complex64)
    out.real, out.imag = np.cos(radians), np.sin(radians)
    return out


@dataclass(frozen=True, slots=True)
class _Shape:
    """The frames of a batch that hide some sound, `rows`: their gates, and the bins that go on all the same."""

    gates: Floats
    rows: Frames
    continuing: Mask


class _Gates:
    """What each frame must not see: what lies behind the next onset, or before the last one."""

    def __init__(self, plan: _Plan, anchors: list[_Anchor], band: Band) -> None:
        half = band.window // 2
        far = 10**9
        place = np.array([anchor.p for anchor in anchors] + [0], dtype=np.int64)
        self._until = np.where(plan.next_anchor >= 0, place[plan.next_anchor] - band.ahead - plan.p + half, far)
        self._from = np.where(plan.last_anchor >= 0, place[plan.last_anchor] + band.gate - plan.p + half, -far)
        self._plan, self._anchors, self._size = plan, anchors, band.window
        self._ramp = max(2, band.entry // 6)

    def of(self, rows: slice) -> _Shape | None:
        until, begin = self._until[rows], self._from[rows]
        touched = np.flatnonzero((until < self._size) | (begin > 0))
        if len(touched) == 0:
            return None
        place = np.arange(self._size, dtype=np.float32)
        per_frame = np.float32(1 / self._ramp)
        before, behind = until[touched, np.newaxis].astype(np.float32), begin[touched, np.newaxis].astype(np.float32)
        gates = np.clip((before - place) * per_frame, 0, 1) * np.clip((place - behind) * per_frame, 0, 1)
        continuing = np.ones((len(touched), self._size // 2 + 1), dtype=bool)
        for row, k in enumerate(touched):
            frame = rows.start + int(k)
            if until[k] < self._size:
                continuing[row] &= self._anchors[self._plan.next_anchor[frame]].continuing
            if begin[k] > 0:
                continuing[row] &= self._anchors[self._plan.last_anchor[frame]].continuing
        return _Shape(gates, touched, continuing)


def _copy(lines: Floats, out: Floats, anchor: _Anchor, rotation: Floats, band: Band) -> None:
    """Lay the source over an onset, its continuing bins turned as they were."""
    size = band.window
    begin = band.ahead + band.entry  # before the onset
    length = begin + anchor.copied
    lead = (size - length) // 3
    start = anchor.p + size - begin - lead
    if start < 0 or start + size > lines.shape[1]:
        return
    taper = _ends(size, lead, size - lead - length)
    spectra = scipy.fft.rfft(lines[:, start : start + size] * taper, axis=1)
    spectra *= np.cos(rotation) + np.complex64(1j) * np.sin(rotation)
    copied = scipy.fft.irfft(spectra, size, axis=1)[:, lead : lead + length]
    place = anchor.q + size - begin
    if place < 0 or place + length > out.shape[1]:
        return
    under = out[:, place : place + length]
    share = np.ones(length, dtype=np.float32)
    share[: band.entry] = _rise(band.entry)
    leave = anchor.copied - band.gate - 1
    share[length - leave :] = _rise(leave)[::-1]
    leaving = slice(length - leave, length)
    gain = np.ones(length, dtype=np.float32)
    gain[leaving] = fade_gain(under[:, leaving], copied[:, leaving], share[leaving])
    out[:, place : place + length] = (under * (1 - share) + copied * share) * gain
    width = band.ahead + band.entry
    for first, last in ((0, band.entry), (length - leave, length)):
        _levelled(lines, out, anchor.p + size - begin + first, place + first, last - first, width)


def _levelled(lines: Floats, out: Floats, p: int, q: int, length: int, width: int) -> None:
    """Lift a fade in or out of a copy, where two sounds that do not agree have thinned it, to the level of the source.

    The fade is `length` frames from q on; there and `width` frames either side the output runs as the source from p.
    """
    if q < width or p < width or q + length + width > out.shape[1] or p + length + width > lines.shape[1]:
        return
    around = slice(p - width, p + length + width), slice(q - width, q + length + width)
    wanted, heard = _powers(lines[:, around[0]], out[:, around[1]], width)
    gain = np.sqrt((wanted + SILENT) / (heard + SILENT))
    if (gain <= 1.0).all():
        return
    begin = q - width + width // 2
    out[:, begin : begin + len(gain)] *= 1 + (np.clip(gain, 1.0, MOST_LIFT) - 1) * _swell(len(gain))


def _powers(one: Floats, other: Floats, width: int) -> Floats:
    """Of `width` frames of two sounds from each frame on, all channels together: shape (2, frames)."""
    both = np.stack([one, other])
    sums = np.cumsum(np.einsum("kcf,kcf->kf", both, both), axis=1, dtype=np.float64)
    powers: Floats = np.maximum(sums[:, width:] - sums[:, :-width], 0).astype(np.float32)
    return powers


@cache
def _swell(frames: int) -> Floats:
    """A window that rises from 0 to 1 and falls back to 0."""
    swell: Floats = np.minimum(1, 2 * np.sin(np.linspace(0, np.pi, frames, dtype=np.float32)))
    return swell


@cache
def _hann(size: int) -> Floats:
    return np.hanning(size + 1)[:-1].astype(np.float32)


@cache
def _ends(size: int, lead: int, tail: int) -> Floats:
    """Ones with quarter-sine ends."""
    taper = np.ones(size, dtype=np.float32)
    taper[:lead] = np.sin(np.linspace(0, np.pi / 2, lead, dtype=np.float32)) ** 2
    taper[-tail:] = np.cos(np.linspace(0, np.pi / 2, tail, dtype=np.float32)) ** 2
    return taper


@cache
def _rise(frames: int) -> Floats:
    return (0.5 - 0.5 * np.cos(np.linspace(0, np.pi, frames + 2)[1:-1])).astype(np.float32)
