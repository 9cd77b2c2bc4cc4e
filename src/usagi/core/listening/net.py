"""What the net says of a sound: for every key and frame how likely a note begins, sounds, is bent, shaken or slid."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, fields
from typing import Final

import numpy as np
import onnxruntime
from numpy.typing import NDArray

from usagi.core.listening.spectrum import Line, Spectra, spectra

Map = NDArray[np.float32]
Net = Callable[[Spectra], tuple[Map, Map, Map]]
AROUND_S: Final = 0.8  # of sound on both sides of a stretch, or of silence: what a key says rests on half a second


@dataclass(frozen=True)
class Said:
    """Maps of shape (keys, frames), values 0 to 1; `contour` in thirds of a semitone, `dead` by frame alone."""

    onset: Map
    legato: Map
    frame: Map
    vibrato: Map
    bend: Map
    glide: Map
    contour: Map
    dead: Map

    @property
    def frames(self) -> int:
        return int(self.onset.shape[1])

    def cut(self, first: int, last: int) -> Said:
        """Some of its frames."""
        return Said(**{f.name: getattr(self, f.name)[..., first:last] for f in fields(Said)})


def load_net(model: bytes) -> Net:
    """The first net from an ONNX file's bytes."""
    session = _session(model)

    def net(heard: Spectra) -> tuple[Map, Map, Map]:
        heads, contour, dead = session.run(None, {"spectra": heard[None]})
        return heads[0], contour[0], dead[0]

    return net


def load_judge(model: bytes) -> Callable[[Map], Map]:
    """The second net, which judges rows of facts."""
    session = _session(model)

    def judge(rows: Map) -> Map:
        said: Map = session.run(None, {"facts": rows})[0]
        return said

    return judge


def _session(model: bytes) -> onnxruntime.InferenceSession:
    """It works on one core, so that several may listen at once."""
    options = onnxruntime.SessionOptions()
    options.intra_op_num_threads = 1
    options.inter_op_num_threads = 1
    return onnxruntime.InferenceSession(model, options, providers=["CPUExecutionProvider"])


def said_of(line: Line, net: Net, *, cents: float = 0.0, loud: float | None = None) -> Said:
    """What a net says of a sound.

    Parameters
    ----------
    line : float32, one channel at 22,050 Hz, with `AROUND_S` on both sides of what is asked about.
    cents : how far the sound lies above A = 440.
    loud : the loudness of the take that the line is a part of; its own when left out.
    """
    heard = spectra(line, cents=cents, loud=loud)
    heads, contour, dead = net(heard)
    onset, legato, frame, vibrato, bend, glide = heads
    return Said(onset, legato, frame, vibrato, bend, glide, contour, dead)
