import {
  type KeyboardEvent,
  memo,
  type PointerEvent,
  type ReactNode,
  useCallback,
  useEffect,
  useLayoutEffect,
  useMemo,
  useRef,
  useState,
} from "react";
import { type Axis, chunksOf, toPx, toS, zoomStep } from "@/score/axis";
import { bounds, choosePhrase, pick, select, setCursor, useBench } from "@/score/bench";
import { CHUNK, densityAt, layLanes, MARGIN } from "@/score/layout";
import { stringY } from "@/score/neck";
import { type Chunks, chunksOfNotes, type Placed, type View, viewOf } from "@/score/view";
import { Chunk } from "./Chunk";
import { LaneNames } from "./LaneNames";
import { NoteOptions } from "./NoteOptions";
import { PhraseTags } from "./PhraseTags";

type Props = {
  readonly pxPerS: number;
  readonly onZoom: (pxPerS: number) => void;
  readonly onKey: (event: KeyboardEvent) => void;
  readonly onPhrase: (id: string) => void;
  readonly onChord: (id: string, bar: number) => void;
  /** A bar is put where the sound was clicked. */
  readonly onBarAt: (bar: number, second: number) => void;
  readonly loop: { readonly startS: number; readonly endS: number } | null;
  /** Seconds of the playhead now, or null; read each frame, never state. */
  readonly playhead: () => number | null;
  readonly flipStrings: boolean;
  /** What opens at the note in hand. */
  readonly atNote: ReactNode;
};

const NONE: readonly Placed[] = [];
const LEAD = 40; // pixels before the first bar line
const PAGE = 0.85; // where a playing strip turns its page

/** The strip: everything about a solo on one axis. */
export function Strip({
  pxPerS,
  onZoom,
  onKey,
  onPhrase,
  onChord,
  onBarAt,
  loop,
  playhead,
  flipStrings,
  atNote,
}: Props) {
  const bench = useBench((state) => state.bench);
  const grid = useBench((state) => state.grid);
  const cursor = useBench((state) => state.cursor);
  const selection = useBench((state) => state.selection);
  const elements = useBench((state) => state.elements);
  const views = useBench((state) => state.views);
  const placing = useBench((state) => state.placing);
  const scroller = useRef<HTMLDivElement>(null);
  const head = useRef<HTMLDivElement>(null);
  const [size, setSize] = useState({ width: 1200, height: 516 });
  const [scrolled, setScrolled] = useState(0); // in chunks, so that scrolling seldom renders
  const drag = useRef<number | null>(null);

  useLayoutEffect(() => {
    const box = scroller.current;
    if (box === null) return undefined;
    const measure = () => setSize({ width: box.clientWidth, height: box.clientHeight });
    measure(); // before the first picture, so that no lane jumps
    const watch = new ResizeObserver(measure);
    watch.observe(box);
    return () => watch.disconnect();
  }, []);

  const first = useBench((state) => bounds(state)[0]);
  const last = useBench((state) => bounds(state)[1]);
  const endS = Math.max(grid.second(last), bench?.recording?.seconds ?? 0);
  const axis: Axis = useMemo(
    () => ({ startS: Math.min(0, grid.second(first)) - LEAD / pxPerS, pxPerS }),
    [grid, first, pxPerS],
  );
  const total = toPx(axis, endS) + LEAD;
  const strings = bench?.tables.strings.length ?? 6;
  const lanes = useMemo(() => layLanes(size.height, strings, flipStrings), [size.height, strings, flipStrings]);
  const view: View = useMemo(() => viewOf(elements, views, grid, axis), [elements, views, grid, axis]);
  const density = densityAt(view.spacing);
  const before = useRef<Chunks>(new Map());
  const parts = useMemo(() => (before.current = chunksOfNotes(view.notes, CHUNK, 60, before.current)), [view]);

  // The place under the middle stays when the zoom changes; a cursor that leaves the view is followed.
  const kept = useRef<number | null>(null);
  useLayoutEffect(() => {
    const box = scroller.current;
    if (box !== null && kept.current !== null)
      box.scrollLeft = toPx(axis, kept.current) - (box.clientWidth - MARGIN) / 2;
    kept.current = null;
  }, [axis]);
  const zoom = useCallback(
    (by: number) => {
      const box = scroller.current;
      if (box !== null) kept.current = toS(axis, box.scrollLeft + (box.clientWidth - MARGIN) / 2);
      onZoom(zoomStep(pxPerS, by));
    },
    [axis, onZoom, pxPerS],
  );
  useEffect(() => {
    const box = scroller.current;
    if (box === null) return;
    const x = toPx(axis, grid.second(cursor.tick));
    const width = box.clientWidth - MARGIN;
    if (x < box.scrollLeft + 20 || x > box.scrollLeft + width - 60) box.scrollLeft = Math.max(0, x - width * 0.25);
  }, [cursor.tick, axis, grid]);

  // The playhead moves by itself, a page turns when it comes near the edge, and what sounds is red.
  useEffect(() => {
    let frame = 0;
    let sounding: Element[] = [];
    const paint = () => {
      const second = playhead();
      const box = scroller.current;
      const line = head.current;
      if (line !== null && box !== null) {
        line.style.visibility = second === null ? "hidden" : "visible";
        const shown =
          second === null
            ? []
            : view.notes.filter((note) => note.startS <= second && second < note.endS).map((note) => note.id);
        const now = shown.flatMap((id) => [...document.querySelectorAll(`[data-note="${id}"]`)]);
        for (const element of sounding) if (!now.includes(element)) element.removeAttribute("data-sounding");
        for (const element of now) element.setAttribute("data-sounding", "true");
        sounding = now;
        if (second !== null) {
          const x = toPx(axis, second);
          line.style.transform = `translateX(${x + MARGIN}px)`;
          const width = box.clientWidth - MARGIN;
          if (x > box.scrollLeft + width * PAGE || x < box.scrollLeft) box.scrollLeft = Math.max(0, x - width * 0.08);
        }
      }
      frame = requestAnimationFrame(paint);
    };
    frame = requestAnimationFrame(paint);
    return () => {
      cancelAnimationFrame(frame);
      for (const element of sounding) element.removeAttribute("data-sounding");
    };
  }, [axis, playhead, view]);

  useEffect(() => {
    const box = scroller.current;
    if (box === null) return undefined;
    const wheel = (event: WheelEvent) => {
      if (!event.ctrlKey && !event.metaKey) return;
      event.preventDefault();
      zoom(event.deltaY < 0 ? 1 : -1);
    };
    box.addEventListener("wheel", wheel, { passive: false });
    return () => box.removeEventListener("wheel", wheel);
  }, [zoom]);

  if (bench === null) return null;
  const chunks = chunksOf(scrolled * CHUNK, scrolled * CHUNK + size.width + CHUNK, CHUNK, Math.floor(total / CHUNK));
  const at = (event: PointerEvent): { tick: number; string: number; y: number } => {
    const box = scroller.current?.getBoundingClientRect();
    const x = event.clientX - (box?.left ?? 0) + (scroller.current?.scrollLeft ?? 0) - MARGIN;
    const y = event.clientY - (box?.top ?? 0);
    const near = Array.from({ length: strings }, (_, i) => i + 1).sort(
      (a, b) => Math.abs(stringY(lanes.neck, a) - y) - Math.abs(stringY(lanes.neck, b) - y),
    );
    return { tick: snap(grid.tick(toS(axis, x))), string: near[0] ?? 1, y };
  };
  /** To the nearest sixteenth of a bar's pulses: the steps that the ruler's beats are cut in. */
  const snap = (tick: number): number => {
    const beats = bench.strip.bars.flatMap((bar) => bar.beats.map((beat) => beat.tick));
    let i = beats.findIndex((beat) => beat > tick) - 1;
    if (i === -2) i = beats.length - 1;
    const from = beats[Math.max(0, i)] ?? 0;
    const step = ((beats[Math.max(0, i) + 1] ?? last) - from) / 4;
    return step > 0 ? Math.round(from + Math.round((tick - from) / step) * step) : from;
  };
  const down = (event: PointerEvent<HTMLDivElement>) => {
    if (!event.currentTarget.contains(event.target as Node)) return; // in a menu that opens from here
    if (event.button !== 0 || (event.target as HTMLElement).closest("button, [role=option]")) return;
    const place = at(event);
    if (place.y > lanes.height || event.clientX - (scroller.current?.getBoundingClientRect().left ?? 0) < MARGIN)
      return;
    if (placing !== null) {
      const box = scroller.current?.getBoundingClientRect();
      onBarAt(placing, toS(axis, event.clientX - (box?.left ?? 0) + (scroller.current?.scrollLeft ?? 0) - MARGIN));
      return;
    }
    if (event.shiftKey) {
      select({ from: Math.min(cursor.tick, place.tick), to: Math.max(cursor.tick, place.tick) });
      return;
    }
    drag.current = place.tick;
    select(null);
    choosePhrase(null);
    setCursor({
      tick: place.tick,
      ...(place.y > lanes.neck.top - 20 && place.y < lanes.degrees ? { string: place.string } : {}),
    });
  };
  const move = (event: PointerEvent<HTMLDivElement>) => {
    if (drag.current === null) return;
    const { tick } = at(event);
    if (tick !== drag.current) select({ from: Math.min(drag.current, tick), to: Math.max(drag.current, tick) });
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
        <div className="relative h-full" style={{ width: total + MARGIN }}>
          <LaneNames lanes={lanes} tables={bench.tables} />
          {loop !== null && (
            <div
              aria-hidden
              className="absolute top-[34px] bg-sound-wash"
              style={{
                left: MARGIN + toPx(axis, loop.startS),
                width: (loop.endS - loop.startS) * pxPerS,
                height: lanes.height - 34,
              }}
            />
          )}
          {selection !== null && (
            <div
              data-testid="selection"
              aria-hidden
              className="absolute top-[34px] border-x-2 border-pick bg-pick/10"
              style={{
                left: MARGIN + toPx(axis, grid.second(selection.from)),
                width: (grid.second(selection.to) - grid.second(selection.from)) * pxPerS,
                height: lanes.height - 34,
              }}
            />
          )}
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
          <div
            aria-hidden
            className="absolute top-0 w-[2px] bg-pick/70"
            style={{ left: MARGIN + cursorX - 1, height: lanes.height }}
          />
          <div
            aria-hidden
            className="absolute rounded-[5px] border-[2.5px] border-pick"
            style={{ left: MARGIN + cursorX - 14, top: cursorY - 14, width: 28, height: 28 }}
          />
          <div className="absolute" style={{ left: MARGIN + cursorX + 16, top: cursorY }}>
            {atNote}
          </div>
          <div
            ref={head}
            data-testid="playhead"
            aria-hidden
            className="absolute left-0 top-0 z-10 w-[2.5px] bg-sound"
            style={{ height: lanes.height, visibility: "hidden" }}
          >
            <span className="absolute -left-[7px] top-0 border-x-[8px] border-t-[10px] border-x-transparent border-t-sound" />
          </div>
          <PhraseTags axis={axis} grid={grid} lanes={lanes} onPhrase={onPhrase} />
          <ChordButtons
            axis={axis}
            top={lanes.chords}
            from={scrolled * CHUNK}
            to={scrolled * CHUNK + size.width + CHUNK}
            onChord={onChord}
          />
          <NoteOptions
            view={view}
            axis={axis}
            lanes={lanes}
            from={scrolled * CHUNK}
            to={scrolled * CHUNK + size.width + CHUNK}
            onPick={pick}
          />
        </div>
      </div>
      <div className="absolute left-2 top-1 z-30 flex gap-1">
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
  top,
  from,
  to,
  onChord,
}: {
  axis: Axis;
  top: number;
  from: number;
  to: number;
  onChord: (id: string, bar: number) => void;
}) {
  const chords = useBench((state) => state.bench?.strip.chords);
  const grid = useBench((state) => state.grid);
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
            left: MARGIN + toPx(axis, grid.second(chord.tick)),
            top,
            width: Math.min(90, Math.max(24, (grid.second(chord.end) - grid.second(chord.tick)) * axis.pxPerS - 4)),
          }}
        />
      ))}
    </>
  );
});
