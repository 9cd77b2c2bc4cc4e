"""How exact slowed sound is, and what it costs: the program's stretcher on signals of known truth.

Every figure is over all speeds unless its name says one. Truth comes from `benchmarks.sounds`, judgement from
`benchmarks.listening`; only `render` is the program's.
"""

from __future__ import annotations

import time
from collections.abc import Callable, Iterator

import numpy as np
import python_stretch
from numpy.typing import NDArray

from benchmarks import sounds
from benchmarks.figures import Figure
from benchmarks.listening import cents_off, level_db, onset_errors_ms, partial_db, percentile, shape_lags_ms
from benchmarks.overlap_add import overlap_add
from benchmarks.sounds import RATE, Line
from usagi.core.audio.cuts import joint_near, piece_end
from usagi.core.audio.stretch import CONTEXT_S, LEAD_S, lead_s, render

SPEEDS = (250, 400, 500, 600, 700, 800, 900, 1_100, 1_250)
SEEDS = (1_001, 1_002, 1_003)
Stretch = Callable[[NDArray[np.float32], int], NDArray[np.float32]]


def ours(pcm: NDArray[np.float32], permille: int) -> NDArray[np.float32]:
    return render(pcm, before=0, after=0, speed_permille=permille)


def plain_overlap_add(pcm: NDArray[np.float32], permille: int) -> NDArray[np.float32]:
    return overlap_add(pcm, permille / 1_000)


def library(pcm: NDArray[np.float32], permille: int) -> NDArray[np.float32]:
    """python-stretch in blocks of 120 ms, a quarter apart: what one would take instead of our own."""
    engine = python_stretch.Signalsmith.Stretch(1)
    engine.configure(pcm.shape[1], round(0.120 * RATE), round(0.030 * RATE))
    engine.setTimeFactor(permille / 1_000)
    return np.asarray(engine.process(np.ascontiguousarray(pcm.T)), dtype=np.float32).T


def mono(line: Line) -> NDArray[np.float32]:
    return line.astype(np.float32)[:, None]


def out_of(stretch: Stretch, line: Line, permille: int) -> Line:
    return stretch(mono(line), permille)[:, 0].astype(np.float64)


def at_speed(hz: Line, permille: int, frames: int) -> Line:
    """A curve as it runs in the stretched sound."""
    return np.interp(np.arange(frames) * permille / 1_000, np.arange(len(hz)), hz)


def bend_cents(stretch: Stretch, permille: int, seeds: tuple[int, ...]) -> float:
    """Root mean square of the worse of fundamental and fourth partial."""
    off: list[list[Line]] = [[], []]
    for seed in seeds:
        for base in (196.0, 330.0):
            known = sounds.bend(base, seed)
            out = out_of(stretch, known.sound, permille)
            hz = at_speed(known.hz, permille, len(out))
            for kept, partial in zip(off, (1, 4), strict=True):
                cents = cents_off(out, partial * hz)
                kept.append(cents[~np.isnan(cents)])
    return max(float(np.sqrt(np.mean(np.concatenate(kept) ** 2))) for kept in off)


def struck(
    stretch: Stretch, permille: int, make: Callable[[int], sounds.Struck], seeds: tuple[int, ...]
) -> tuple[float, float]:
    """Onset error, 90th percentile, and median attack, both in output milliseconds."""
    errors, attacks = [], []
    for seed in seeds:
        known = make(seed)
        late, attack = onset_errors_ms(known.sound, out_of(stretch, known.sound, permille), known.at, permille / 1_000)
        errors.append(late)
        attacks.append(attack)
    return percentile(np.concatenate(errors), 90), float(np.median(np.concatenate(attacks)))


def shape_lags(stretch: Stretch, permille: int, seeds: tuple[int, ...]) -> Line:
    """Of overdriven notes, in output milliseconds."""
    known = [sounds.notes(seed, driven=True) for seed in seeds]
    return np.concatenate(
        [shape_lags_ms(k.sound, out_of(stretch, k.sound, permille), k.at, permille / 1_000) for k in known]
    )


def tone_cents(stretch: Stretch, permille: int) -> float:
    """The worst moment of single tones, half a second from the ends."""
    worst = 0.0
    for hz in (41.2, 82.4, 110.0, 329.6, 880.0):
        out = out_of(stretch, sounds.tone(hz, 6.0), permille)
        worst = max(worst, float(np.nanmax(np.abs(_steady_off(out, hz)))))
    return worst


def bass_cents(stretch: Stretch, permille: int, seed: int, *, under_hits: bool = False) -> float:
    """Root mean square over a held 41 Hz bass."""
    line = sounds.bass(seed) + (sounds.hits(seed, level=0.3).sound if under_hits else 0)
    return float(np.sqrt(np.nanmean(_steady_off(out_of(stretch, line, permille), 41.2) ** 2)))


def _steady_off(out: Line, hz: float) -> Line:
    """Cents from a steady tone; low tones are smoothed longer, or the tracker hears its own mirror image."""
    smooth_s = 0.12 if hz < 200 else 0.03
    return cents_off(out, np.full(len(out), hz), smooth_s=smooth_s)[RATE // 2 : -RATE // 2]


def region_starts_db(make: Callable[[int], Line], permille: int, seeds: tuple[int, ...]) -> Line:
    """Level of the first 20 ms of pieces against the same place of one long render, in dB."""
    context = round(CONTEXT_S * RATE)
    first = round(0.020 * RATE)
    found = []
    for seed in seeds:
        pcm = mono(make(seed))
        whole = ours(pcm, permille)[:, 0]
        rng = np.random.default_rng(seed)
        for _ in range(6):
            start = int(rng.integers(round(5.0 * RATE), len(pcm) - 2 * RATE))
            begin = max(0, start - round(LEAD_S * RATE))
            piece = render(
                pcm[begin : start + RATE // 2 + context],
                before=start - begin,
                after=context,
                speed_permille=permille,
                at=start,
            )[:first, 0]
            place = round(start * 1_000 / permille)
            found.append(level_db(piece) - level_db(whole[place : place + first]))
    return np.array(found)


def joins_db(make: Callable[[int], Line], permille: int, seed: int, *, opening: bool = False) -> Line:
    """Level of the 5 ms in which pieces that were rendered apart fade into each other, shape (joins, 2).

    Against one long render, in which partials may stand otherwise at that moment, and against the two pieces
    themselves at that place: what the join alone takes away.

    They are cut near random places, where the program cuts. Those that open a playing are shorter, and led into by less.
    """
    pcm = mono(make(seed))
    whole = ours(pcm, permille)[:, 0]
    context, fade = round(CONTEXT_S * RATE), round(0.005 * RATE)
    weight = np.sin(np.linspace(0, np.pi / 2, fade)) ** 2
    found = []
    for place in np.random.default_rng(seed).integers(round(2.5 * RATE), len(pcm) - 2 * RATE, 6):
        around = int(place) - RATE // 2
        join = joint_near(pcm[around : around + RATE], around, int(place))
        ends = []
        before, then = (round(length * RATE) for length in ((0.6, 1.2) if opening else (2.0, 1.0)))
        for start, end, tail in ((join - before, join, fade), (join, join + then, 0)):
            begin = max(0, start - round(lead_s((end - start) / RATE, loop=not opening) * RATE))
            after = context + fade
            part = pcm[begin : end + after]
            sound = render(part, before=start - begin, after=after, speed_permille=permille, at=int(start), tail=tail)
            ends.append(sound[-fade:, 0] if tail else sound[:fade, 0])
        place = round(join * 1_000 / permille)
        joined = ends[0] * (1 - weight) + ends[1] * weight
        own = 10 * np.log10(np.mean([np.mean(end**2) for end in ends]) + 1e-12)
        found.append((level_db(joined) - level_db(whole[place : place + fade]), level_db(joined) - own))
    return np.array(found)


def dips_db(stretch: Stretch, permille: int, seed: int) -> tuple[Line, Line]:
    """Level against the source of the 10 ms windows in which the recorded sound before and behind a hit is faded in
    and out, in a dense mix; and of windows elsewhere."""
    left, right = sounds.mix(seed)
    pcm = np.stack([left, right], axis=1).astype(np.float32)
    out = stretch(pcm, permille).astype(np.float64)
    window = np.ones(480) / 480
    own = np.convolve((pcm.astype(np.float64) ** 2).sum(axis=1), window, "same")
    heard = np.convolve((out**2).sum(axis=1), window, "same")

    def level(frame: int, ms: float) -> float:
        """Of the window so many output milliseconds beside a place; beside a hit the sound runs as recorded."""
        beside = round(ms * 48)
        at = round(frame * 1_000 / permille) + beside
        return float(10 * np.log10((heard[at] + 1e-9) / (own[frame + beside] + 1e-9)))

    known = sounds.hits(seed + 2).at
    clear = [int(frame) for frame in known if 0.3 * RATE < frame < len(pcm) - 0.5 * RATE]
    splices = [level(f, -7.0) for f in clear] + [level(f, 17.0) for f in clear]
    rng = np.random.default_rng(seed)
    free = [int(f) for f in rng.integers(RATE, len(pcm) - RATE, 200) if np.abs(known - f).min() > 0.08 * RATE]
    control = [level(f, 0.0) for f in free]
    return np.array(splices), np.array(control)


def taken(work: Callable[[], object]) -> float:
    """Process seconds."""
    begin = time.process_time()
    work()
    return time.process_time() - begin


def cost(permille: int, *, stereo: bool, seed: int) -> float:
    """Process seconds of the stretcher over those of plain overlap-add, the least of nine each, in turns."""
    left, right = sounds.mix(seed)
    pcm = np.stack([left, right] if stereo else [left], axis=1).astype(np.float32)

    pairs = [(taken(lambda: ours(pcm, permille)), taken(lambda: overlap_add(pcm, permille / 1_000))) for _ in range(9)]
    return min(p[0] for p in pairs) / min(p[1] for p in pairs)


def before_picks_db(stretch: Stretch, permille: int, seeds: tuple[int, ...]) -> Line:
    """How much louder the 12 ms before each pick are than in the source, in dB; they end 5 ms before it.

    Quiet ends are counted as loud as 45 dB under the sound's peak: what lies under that nobody hears before a pick.
    """
    found = []
    for seed in seeds:
        known = sounds.picks(seed)
        out = out_of(stretch, known.sound, permille)
        floor = 10 ** (-4.5) * np.abs(known.sound).max()
        far, near = round(0.017 * RATE), round(0.005 * RATE)
        for frame in known.at[1:]:
            place = round(frame * 1_000 / permille)
            own, heard = known.sound[frame - far : frame - near], out[place - far : place - near]
            found.append(10 * np.log10((np.mean(heard**2) + floor**2) / (np.mean(own**2) + floor**2)))
    return np.array(found)


def sustained_off(stretch: Stretch, permille: int, seeds: tuple[int, ...]) -> tuple[float, float]:
    """Of the partials of held chords, the worst: standard deviation of pitch in cents, and of level in dB."""
    cents, wobble = 0.0, 0.0
    for seed in seeds:
        known = sounds.sustained(seed)
        out = out_of(stretch, known.sound, permille)
        for hz in known.hz:
            steady = slice(RATE, -RATE)
            curve = np.full(len(out), hz)
            cents = max(cents, float(np.nanstd(cents_off(out, curve, smooth_s=0.12)[steady])))
            wobble = max(wobble, float(np.std(partial_db(out, curve, smooth_s=0.12)[steady])))
    return cents, wobble


def seams_db(permille: int, seeds: tuple[int, ...]) -> Line:
    """Level of the middle 2.5 ms of the seams of loops cut at random, against what is faded out and what is faded in."""
    fade, quarter, lead, after = (round(s * RATE) for s in (0.005, 0.00125, LEAD_S, CONTEXT_S))
    found = []

    def cut(pcm: NDArray[np.float32], begin: int, end: int, *, loop: bool = False) -> NDArray[np.float32]:
        part = pcm[begin - lead : end + after]
        return render(part, before=lead, after=after, speed_permille=permille, at=begin, loop=loop)[:, 0]

    for seed in seeds:
        for line in (sounds.notes(seed).sound, sounds.chords(seed).sound, sounds.mix(seed)[0]):
            pcm = mono(line)
            for start, length in np.random.default_rng(seed).uniform((4.3, 0.7), (6.0, 3.0), (7, 2)):
                begin, end = round(start * RATE), round((start + length) * RATE)
                earlier = begin - round(0.1 * RATE)
                place = round(begin * 1_000 / permille) - round(earlier * 1_000 / permille)
                ends = (cut(pcm, begin, end)[-fade:], cut(pcm, earlier, end)[place - fade : place])
                own = 10 * np.log10(np.mean([np.mean(part[quarter:-quarter] ** 2) for part in ends]) + 1e-12)
                found.append(level_db(cut(pcm, begin, end, loop=True)[-fade:][quarter:-quarter]) - own)
    return np.array(found)


def over_full_scale(permille: int, seed: int, *, squashed: bool) -> float:
    """Samples in a thousand that leave full scale; the source has none."""
    out = ours(sounds.loud(seed, squashed=squashed).astype(np.float32), permille)
    return 1_000 * float(np.mean(np.abs(out) > 1.0))


def pieces_cost(permille: int, seed: int) -> float:
    """Process seconds of a minute's playing as the pieces that the page asks for, over those of one render of it."""
    pcm = np.stack(sounds.mix(seed, 68.0), axis=1).astype(np.float32)
    begin, end = round(5 * RATE), round(65 * RATE)

    def part(start: int, stop: int, lead: int) -> None:
        after = round(CONTEXT_S * RATE)
        render(pcm[start - lead : stop + after], before=lead, after=after, speed_permille=permille, at=start)

    def pieces() -> None:
        at, number = begin, 0
        while at < end:
            stop = piece_end(at, number, end)
            if stop < end:
                around = stop - RATE // 2
                stop = joint_near(pcm[around : stop + RATE // 2, :1], around, stop)
            part(at, stop, round(lead_s((stop - at) / RATE, loop=False) * RATE))
            at, number = stop, number + 1

    return min(taken(pieces) for _ in range(3)) / min(taken(lambda: part(begin, end, 0)) for _ in range(3))


def cents_on_top(permille: int) -> float:
    """The worst moment of a tone that is moved by some cents as well."""
    worst = 0.0
    for cents in (-100.0, -13.0, 7.0, 50.0, 200.0):
        out = render(mono(sounds.tone(220.0, 6.0)), before=0, after=0, speed_permille=permille, cents=cents)
        hz = np.full(len(out), 220.0 * 2 ** (cents / 1_200))
        off = cents_off(out[:, 0].astype(np.float64), hz)[RATE // 2 : -RATE // 2]
        worst = max(worst, float(np.nanmax(np.abs(off))))
    return worst


def figures(speeds: tuple[int, ...] = SPEEDS, seeds: tuple[int, ...] = SEEDS) -> Iterator[Figure]:
    def worst(measure: Callable[[int], float]) -> float:
        return max(measure(speed) for speed in speeds)

    for speed in speeds:
        yield Figure(f"bend, rms, at {speed / 10:g} %", bend_cents(ours, speed, seeds), "cents", 1.5)
    hit = [struck(ours, speed, sounds.hits, seeds) for speed in speeds]
    yield Figure("attack of hits, median, worst speed", max(h[1] for h in hit), "ms", 4)
    yield Figure("onset of hits, 90th percentile, worst speed", max(h[0] for h in hit), "ms", 1)
    for speed in speeds:
        late, _ = struck(ours, speed, sounds.notes, seeds)
        goal = 1.2 if 400 <= speed <= 700 else 2
        yield Figure(f"onset of clean notes, 90th percentile, at {speed / 10:g} %", late, "ms", goal)
    for speed in (s for s in speeds if 400 <= s <= 700):
        late, _ = struck(ours, speed, sounds.picks, seeds)
        yield Figure(f"onset of picked strings, 90th percentile, at {speed / 10:g} %", late, "ms", 1.2)
        louder = before_picks_db(ours, speed, seeds)
        yield Figure(f"heard before a pick over the source, 90th percentile, at {speed / 10:g} %",
                     float(np.percentile(louder, 90)), "dB", 3)  # fmt: skip
        cents, wobble = sustained_off(ours, speed, seeds)
        yield Figure(f"sustained chord, worst partial, at {speed / 10:g} %", cents, "cents", 6 if speed < 700 else 1)
        yield Figure(f"sustained chord, wobble of level, at {speed / 10:g} %", wobble, "dB", 0.7)
        dips = seams_db(speed, seeds)
        yield Figure(f"seams of {len(dips)} random loops dipping over 3 dB, at {speed / 10:g} %",
                     100 * float(np.mean(dips < -3)), "%", 10)  # fmt: skip
    for squashed, said in ((False, "a loud mix"), (True, "a loud mix through a limiter")):
        over = max(over_full_scale(speed, seed, squashed=squashed) for speed in speeds for seed in seeds)
        yield Figure(f"samples of {said} over full scale, worst", over, "per mille", 0)
    for speed in speeds:
        late, plain = (percentile(shape_lags(stretch, speed, seeds), 90) for stretch in (ours, plain_overlap_add))
        name = f"onset of overdriven notes by their shape, 90th percentile, at {speed / 10:g} %"
        yield Figure(name, late, "ms", 2, baseline=f"{plain:.1f} by numpy overlap-add")
    yield Figure("steady tones, worst moment, worst speed", worst(lambda s: tone_cents(ours, s)), "cents", 0.5)
    low = worst(lambda s: max(bass_cents(ours, s, seed) for seed in seeds))
    yield Figure("41 Hz bass, rms, worst speed", low, "cents", 0.5)
    low = worst(lambda s: max(bass_cents(ours, s, seed, under_hits=True) for seed in seeds))
    own = max(bass_cents(ours, 1_000, seed, under_hits=True) for seed in seeds)
    yield Figure("41 Hz bass under hits, rms, worst speed", low, "cents", baseline=f"{own:.2f} in the source itself")
    for name, make in (
        ("hits", lambda seed: sounds.hits(seed).sound),
        ("notes", lambda seed: sounds.notes(seed).sound),
        ("chords", lambda seed: sounds.chords(seed).sound),
        ("held chord", sounds.held_chord),
        ("mix", lambda seed: sounds.mix(seed)[0]),
    ):
        off = np.concatenate([region_starts_db(make, speed, seeds) for speed in speeds])
        yield Figure(f"first 20 ms of a region, {name}, 90th percentile", percentile(off, 90), "dB", 0.5)
    for name, make in (
        ("notes", lambda seed: sounds.notes(seed, driven=True).sound),
        ("chords", lambda seed: sounds.chords(seed).sound),
        ("held chord", sounds.held_chord),
        ("mix", lambda seed: sounds.mix(seed)[0]),
    ):
        for opening, said in ((False, "two pieces join"), (True, "the first two pieces of a playing join")):
            off = np.concatenate([joins_db(make, x, seed, opening=opening) for x in speeds for seed in seeds])
            for column, against in enumerate(("one long render", "the pieces themselves")):
                dip = max(0.0, -float(off[:, column].min()))
                name_of = f"dip where {said}, {name}, worst of {len(off)}"
                yield Figure(name_of, dip, "dB", 1, baseline=f"against {against}")
    for speed in speeds:
        found = [dips_db(ours, speed, seed) for seed in seeds]
        deep = np.concatenate([f[0] for f in found])
        free = np.concatenate([f[1] for f in found])
        share = 100 * float(np.mean(deep < -1.5))
        away = f"{100 * np.mean(free < -1.5):.1f} % away from splices"
        yield Figure(f"splices in a mix dipping over 1.5 dB, at {speed / 10:g} %", share, "%", 5, baseline=away)
    for speed in (250, 500, 800, 900):
        said = f"python-stretch at {speed / 10:g} %:"
        yield Figure(f"{said} bend, rms", bend_cents(library, speed, seeds[:1]), "cents")
        late, attack = struck(library, speed, sounds.hits, seeds[:1])
        yield Figure(f"{said} onset of hits, 90th percentile", late, "ms")
        yield Figure(f"{said} attack of hits, median", attack, "ms")
        yield Figure(f"{said} steady tones, worst moment", tone_cents(library, speed), "cents")
        deep = np.concatenate([dips_db(library, speed, seed)[0] for seed in seeds])
        yield Figure(f"{said} dips over 1.5 dB at the same places", 100 * float(np.mean(deep < -1.5)), "%")
    yield Figure("cents on top, worst moment, worst speed", worst(cents_on_top), "cents", 0.5)
    wrong = [
        abs(len(ours(np.zeros((n, 1), np.float32), s)) - round(n * 1_000 / s))
        for s in speeds
        for n in (1, 480, 48_001, 100_003)
    ]
    yield Figure("length, worst error", max(wrong), "samples", 0)
    for stereo in (False, True):
        for speed in speeds:
            name = f"cost, {'stereo' if stereo else 'mono'}, at {speed / 10:g} %"
            yield Figure(name, cost(speed, stereo=stereo, seed=seeds[0]), "times", 4, baseline="numpy overlap-add")
    for speed in (500, 800):
        apart = pieces_cost(speed, seeds[0])
        yield Figure(
            f"cost of pieces, stereo, at {speed / 10:g} %", apart, "times", 1.2, baseline="one render of a minute"
        )
