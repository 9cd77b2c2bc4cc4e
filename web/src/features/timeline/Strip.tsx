import {
  type KeyboardEvent,
  memo,
  type PointerEvent,
  type ReactNode,
  useEffect,
  useMemo,
  useRef,
  useState,
} from "react";
import { type Axis, chunksOf, toPx, toS } from "@/score/axis";
import { atHand, choosePhrase, pick, select, setCursor, useCursor } from "@/score/cursor";
import { bounds, useDocument } from "@/score/document";
import { CHUNK, densityAt, layLanes, NARROW, layLow, layRead } from "@/score/layout";
import { stringY } from "@/score/neck";
import { usePlaying } from "@/score/playing";
import { useShown } from "@/score/shown";
import { type Chunks, chunksOfNotes, type Placed, type View, viewOf } from "@/score/view";
import { Chunk } from "./Chunk";
import { LaneNames } from "./LaneNames";
import { NoteOptions } from "./NoteOptions";
import { PhraseTags } from "./PhraseTags";
import { SectionTags } from "./SectionTags";
import { paintPlayhead } from "./playhead";
import { snapped, stringAt } from "./pointing";
import { useFollowed, useSize, useZoom } from "./scrolling";

type Props = {
  readonly onKey: (event: KeyboardEvent) => void;
  readonly onPhrase: (id: string) => void;
  readonly onChord: (id: string, bar: number) => void;
  /** A bar is put where the sound was clicked. */
  readonly onBarAt: (bar: number, second: number) => void;
  /** Seconds of the playhead now, or null; read each frame, never state. */
  readonly position: () => number | null;
  readonly flipStrings: boolean;
  /** Bars, chords and sound alone, for Setup. */
  readonly low: boolean;
  /** Whether the sound has a lane, where there is a recording. */
  readonly withSound: boolean;
  /** Where notes lead and how they sit on the beat, for the analysis. */
  readonly read: boolean;
  /** What opens at the note in hand. */
  readonly atNote: ReactNode;
};

const NONE: readonly Placed[] = [];
const LEAD = { wide: 64, narrow: 40 } as const; // pixels before the first bar line
const RATE_HZ = 48_000;

/** The strip: everything about a solo on one axis. */
export function Strip({
  onKey,
  onPhrase,
  onChord,
  onBarAt,
  position,
  flipStrings,
  low,
  withSound,
  read,
  atNote,
}: Props) {
  const bench = useDocument((state) => state.bench);
  const grid = useDocument((state) => state.grid);
  const elements = useDocument((state) => state.elements);
  const views = useDocument((state) => state.views);
  const first = useDocument((state) => bounds(state)[0]);
  const last = useDocument((state) => bounds(state)[1]);
  const cursor = useCursor((state) => state.cursor);
  const selection = useCursor((state) => state.selection);
  const placing = useShown((state) => state.placing);
  const pxPerS = useShown((state) => state.pxPerS);
  const loop = usePlaying((state) => state.loop);
  const playing = usePlaying((state) => state.playing);
  const scroller = useRef<HTMLDivElement>(null);
  const head = useRef<HTMLDivElement>(null);
  const drag = useRef<number | null>(null);
  const [scrolled, setScrolled] = useState(0); // in chunks, so that scrolling seldom renders
  const size = useSize(scroller);
  const lead = size.width < NARROW ? LEAD.narrow : LEAD.wide;

  const axis: Axis = useMemo(
    () => ({ startS: Math.min(0, grid.second(first)) - lead / pxPerS, pxPerS }),
    [grid, first, pxPerS, lead],
  );
  const total = toPx(axis, Math.max(grid.second(last), bench?.recording?.seconds ?? 0)) + lead;
  const strings = bench?.tables.strings.length ?? 6;
  const sounds = withSound && bench?.recording != null;
  const lanes = useMemo(
    () => (low ? layLow : read ? layRead : layLanes)({ ...size, strings, flip: flipStrings, sounds }),
    [low, read, size, strings, flipStrings, sounds],
  );
  const view: View = useMemo(() => viewOf(elements, views, grid, axis), [elements, views, grid, axis]);
  const density = densityAt(view.spacing);
  const before = useRef<Chunks>(new Map());
  const parts = useMemo(() => (before.current = chunksOfNotes(view.notes, CHUNK, 60, before.current)), [view]);
  const { margin } = lanes;
  const zoom = useZoom(scroller, axis, margin);
  useFollowed(scroller, toPx(axis, grid.second(cursor.tick)), toPx(axis, grid.second(first)), margin, lead);
  useEffect(() => {
    const [box, line] = [scroller.current, head.current];
    if (!playing || box === null || line === null) return undefined;
    return paintPlayhead({ box, line, axis, margin, notes: view.notes, position });
  }, [playing, axis, margin, position, view]);

  if (bench === null) return null;
  const chunks = chunksOf(scrolled * CHUNK, scrolled * CHUNK + size.width + CHUNK, CHUNK, Math.floor(total / CHUNK));
  const at = (event: PointerEvent) => {
    const box = scroller.current?.getBoundingClientRect();
    const left = event.clientX - (box?.left ?? 0);
    const y = event.clientY - (box?.top ?? 0);
    const second = toS(axis, left + (scroller.current?.scrollLeft ?? 0) - margin);
    const beats = bench.strip.bars.flatMap((bar) => bar.beats.map((beat) => beat.tick));
    return { left, y, second, tick: snapped(grid.tick(second), beats, last) };
  };
  const mark = (from: number, to: number) => select({ from: Math.min(from, to), to: Math.max(from, to) });
  const down = (event: PointerEvent<HTMLDivElement>) => {
    if (!event.currentTarget.contains(event.target as Node)) return; // in a menu that opens from here
    if (event.button !== 0 || (event.target as HTMLElement).closest("button, [role=option]")) return;
    const { left, y, second, tick } = at(event);
    if (y > lanes.height || left < margin) return;
    if (placing !== null) {
      onBarAt(placing, second);
      return;
    }
    if (event.shiftKey) {
      mark(atHand().cursor.tick, tick);
      return;
    }
    drag.current = tick;
    select(null);
    choosePhrase(null);
    const onNeck = !lanes.low && y > lanes.neck.top - 20 && y < lanes.degrees;
    setCursor({ tick, ...(onNeck ? { string: stringAt(y, lanes, strings) } : {}) });
  };
  const move = (event: PointerEvent<HTMLDivElement>) => {
    if (drag.current === null) return;
    const { tick } = at(event);
    if (tick !== drag.current) mark(drag.current, tick);
  };
  const up = () => {
    drag.current = null;
  };
  const under = view.notes.find((note) => note.note.tick === cursor.tick); // swung places are where their notes are
  const cursorX = under?.x ?? toPx(axis, grid.second(cursor.tick));
  const cursorY = stringY(lanes.neck, cursor.string);

  return (
    <div className="relative h-full">
      <div
        ref={scroller}
        role="group"
        data-home
        aria-label="Strip"
        tabIndex={0}
        onKeyDown={onKey}
        onScroll={(event) => setScrolled(Math.floor(event.currentTarget.scrollLeft / CHUNK))}
        onPointerDown={down}
        onPointerMove={move}
        onPointerUp={up}
        onPointerLeave={up}
        className={`relative h-full select-none overflow-x-auto overflow-y-hidden outline-offset-[-3px] ${placing === null ? "" : "cursor-crosshair"}`}
      >
        <div className="relative h-full" style={{ width: total + margin }}>
          <LaneNames lanes={lanes} tables={bench.tables} />
          {chunks.map((chunk) => (
            <Chunk
              key={chunk}
              index={chunk}
              axis={axis}
              lanes={lanes}
              strip={bench.strip}
              strings={bench.tables.strings}
              recordingId={bench.recording?.frames == null ? null : bench.recording.id}
              notes={parts.get(chunk) ?? NONE}
              density={density}
            />
          ))}
          {loop !== null && (
            <div
              aria-hidden
              className="loop-wash pointer-events-none absolute top-[34px] bg-sound-tint"
              style={{
                left: margin + toPx(axis, loop.startFrame / RATE_HZ),
                width: ((loop.endFrame - loop.startFrame) / RATE_HZ) * pxPerS,
                height: lanes.height - 34,
              }}
            />
          )}
          {selection !== null && (
            <div
              data-testid="selection"
              aria-hidden
              className="pointer-events-none absolute top-[34px] border-x-2 border-pick bg-pick/10"
              style={{
                left: margin + toPx(axis, grid.second(selection.from)),
                width: (grid.second(selection.to) - grid.second(selection.from)) * pxPerS,
                height: lanes.height - 34,
              }}
            />
          )}
          <div
            aria-hidden
            className="absolute top-0 w-[2px] bg-pick/70"
            style={{ left: margin + cursorX - 1, height: lanes.height }}
          />
          {!low && (
            <>
              <div
                aria-hidden
                className="absolute rounded-[5px] border-[2.5px] border-pick"
                style={{ left: margin + cursorX - 14, top: cursorY - 14, width: 28, height: 28 }}
              />
              <div className="absolute" style={{ left: margin + cursorX + 16, top: cursorY }}>
                {atNote}
              </div>
            </>
          )}
          <div
            ref={head}
            data-testid="playhead"
            aria-hidden
            className="absolute left-0 top-0 z-10 w-[2.5px] bg-sound"
            style={{ height: lanes.height, visibility: "hidden" }}
          >
            <span className="absolute -left-[7px] top-0 border-x-[8px] border-t-[10px] border-x-transparent border-t-sound" />
          </div>
          {low ? (
            <SectionTags axis={axis} grid={grid} lanes={lanes} />
          ) : (
            <PhraseTags axis={axis} grid={grid} lanes={lanes} onPhrase={onPhrase} />
          )}
          <ChordButtons
            axis={axis}
            margin={margin}
            top={lanes.chords}
            from={scrolled * CHUNK}
            to={scrolled * CHUNK + size.width + CHUNK}
            onChord={onChord}
          />
          {!low && (
            <NoteOptions
              view={view}
              axis={axis}
              lanes={lanes}
              from={scrolled * CHUNK}
              to={scrolled * CHUNK + size.width + CHUNK}
              onPick={pick}
            />
          )}
        </div>
      </div>
      <div className="absolute left-2 top-1 z-30 flex gap-1 max-sm:bottom-1 max-sm:left-auto max-sm:right-2 max-sm:top-auto">
        <button type="button" aria-label="Zoom out" className="key size-7 text-[16px]" onClick={() => zoom(-1)}>
          −
        </button>
        <button type="button" aria-label="Zoom in" className="key size-7 text-[16px]" onClick={() => zoom(1)}>
          +
        </button>
      </div>
    </div>
  );
}

/** Chords can be chosen where they stand, to write another symbol. */
const ChordButtons = memo(function ChordButtons({
  axis,
  margin,
  top,
  from,
  to,
  onChord,
}: {
  axis: Axis;
  margin: number;
  top: number;
  from: number;
  to: number;
  onChord: (id: string, bar: number) => void;
}) {
  const chords = useDocument((state) => state.bench?.strip.chords);
  const grid = useDocument((state) => state.grid);
  const near = (chord: { tick: number; end: number }) =>
    toPx(axis, grid.second(chord.end)) > from - CHUNK && toPx(axis, grid.second(chord.tick)) < to;
  return (
    <>
      {chords?.filter(near).map((chord) => (
        <button
          key={`${chord.id} ${chord.tick}`}
          type="button"
          tabIndex={-1}
          aria-label={`Chord ${chord.shown} at ${chord.where}`}
          onClick={() => onChord(chord.id, chord.bar)}
          className="absolute h-[30px] cursor-text opacity-0"
          style={{
            left: margin + toPx(axis, grid.second(chord.tick)),
            top,
            width: Math.min(90, Math.max(24, (grid.second(chord.end) - grid.second(chord.tick)) * axis.pxPerS - 4)),
          }}
        />
      ))}
    </>
  );
});
