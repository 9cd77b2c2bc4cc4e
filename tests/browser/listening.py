"""The page's own output: what it schedules, how loud it is, and a tape of every sample with its place in time."""

from __future__ import annotations

import base64
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass

import numpy as np
from fastapi import FastAPI
from numpy.typing import NDArray
from playwright.sync_api import Page
from starlette.responses import Response
from starlette.routing import Route

from browser.opening import until

RATE = 48_000
BLOCK = 12_800  # frames that the worklet sends together

# Keeps what the page schedules and listens to its output, without the page knowing.
LISTEN = """
window.heard = { sources: [], level: () => 0 };
const start = AudioBufferSourceNode.prototype.start;
AudioBufferSourceNode.prototype.start = function (...when) {
  const { length: frames, sampleRate: rate } = this.buffer;
  window.heard.sources.push({ frames, rate, loop: this.loop, loopEnd: this.loopEnd, when: when[0] ?? 0 });
  return start.apply(this, when);
};
const connect = AudioNode.prototype.connect;
AudioNode.prototype.connect = function (to, ...rest) {
  if (to instanceof AudioDestinationNode) {
    const ear = new AnalyserNode(this.context, { fftSize: 2048 });
    const samples = new Float32Array(2048);
    connect.call(this, ear);
    window.heard.context = this.context;
    window.heard.level = () => {
      ear.getFloatTimeDomainData(samples);
      return Math.sqrt(samples.reduce((sum, x) => sum + x * x, 0) / 2048);
    };
    window.heard.keep = async () => {
      const heard = window.heard;
      heard.tape = [];
      if (heard.recorder === undefined) {
        await this.context.audioWorklet.addModule("/tape.js");
        heard.recorder = new AudioWorkletNode(this.context, "tape", { channelCount: 1, channelCountMode: "explicit" });
        heard.recorder.port.onmessage = (event) => { heard.tape?.push(event.data); heard.onblock?.(event.data); };
        connect.call(this, heard.recorder);
        connect.call(heard.recorder, this.context.destination);
      }
    };
  }
  return connect.call(this, to, ...rest);
};
"""
# Lives where the sound is made, so that a busy page loses none of it: blocks of samples with their first frame.
TAPE = """
registerProcessor("tape", class extends AudioWorkletProcessor {
  constructor() { super(); this.kept = new Float32Array(12800); this.at = 0; this.from = 0; }
  process([input]) {
    if (this.at === 0) this.from = currentFrame;
    const line = input[0] ?? new Float32Array(128);
    this.kept.set(line, this.at);
    this.at += line.length;
    if (this.at === this.kept.length) { this.port.postMessage({ from: this.from, line: this.kept.slice() }); this.at = 0; }
    return true;
  }
});
"""
UNROLL = """() => {
  const { tape } = window.heard;
  window.heard.tape = undefined;
  const all = new Float32Array(tape.length * 12800);
  tape.forEach(({ line }, number) => all.set(line, number * 12800));
  const bytes = new Uint8Array(all.buffer);
  let text = "";
  for (let i = 0; i < bytes.length; i += 32768) text += String.fromCharCode(...bytes.subarray(i, i + 32768));
  return { from: tape.map(({ from }) => from), text: btoa(text) };
}"""


def serve_tape(app: FastAPI) -> None:
    """A worklet's script is fetched past the driver's routes, and the page's policy takes it from its own server only."""
    answer = Response(TAPE, media_type="text/javascript")
    app.router.routes.insert(0, Route("/tape.js", lambda _: answer))


@dataclass
class Tape:
    """Samples of the output, mono, from a frame of the audio clock on."""

    first: int
    line: NDArray[np.float64]

    def onsets(self, over: float = 0.02) -> NDArray[np.float64]:
        """Seconds of the audio clock at which something begins after 60 ms of less than half its height."""
        size = np.abs(self.line)
        found, quiet, at = [], round(0.06 * RATE), 0
        while True:
            after = np.flatnonzero(size[at:] > over)
            if not len(after):
                return np.asarray(found)
            begin = at + int(after[0])
            peak = size[begin : begin + round(0.02 * RATE)].max()
            begin += int(np.flatnonzero(size[begin:] > 0.3 * peak)[0])
            found.append((self.first + begin) / RATE)
            at = begin + quiet

    def longest_hole(self) -> float:
        """Seconds of the longest silence."""
        quiet = np.convolve(np.abs(self.line), np.ones(240) / 240, "same") < 1e-5
        return float(np.diff(np.flatnonzero(np.concatenate([[True], ~quiet, [True]]))).max() / RATE)


def listen(page: Page, seconds: float) -> None:
    """Wait until so much has sounded: by the clock of the sound, which stands still with a machine that does."""
    until_clock = page.evaluate("window.heard.context.currentTime") + seconds
    until(page, f"window.heard.context.currentTime >= {until_clock}", 60 + 4 * seconds)


@contextmanager
def taping(page: Page) -> Iterator[list[Tape]]:
    """The output while the block lasts, as the only item of the list when it is left."""
    found: list[Tape] = []
    page.evaluate("window.heard.keep()")
    until(page, "window.heard.tape.length > 0")
    yield found
    sounded = page.evaluate("window.heard.context.currentTime") * RATE
    until(page, f"window.heard.tape.at(-1).from + {BLOCK} >= {sounded}", 30)
    kept = page.evaluate(UNROLL)
    # In its first block a new worklet misses what passed before it was running; after that every frame is there.
    begins = kept["from"][1:]
    assert (np.diff(begins) == BLOCK).all(), np.diff(begins)
    line = np.frombuffer(base64.b64decode(kept["text"]), dtype="<f4").astype(np.float64)
    found.append(Tape(begins[0], line[BLOCK:]))


def taped(page: Page, seconds: float) -> NDArray[np.float64]:
    """The output for so long from now on."""
    with taping(page) as kept:
        until(page, f"(window.heard.tape.length - 1) * 12800 >= {round(seconds * RATE)}", 60)
    return kept[0].line
