import { memo, useCallback, useEffect, useState } from "react";
import type { Schemas } from "@/api/client";
import { latest } from "@/api/latest";
import { type Axis, toPx } from "@/score/axis";
import { useDocument } from "@/score/document";
import { useShown } from "@/score/shown";
import { CHUNK, type Density, fitting, type Lanes } from "@/score/layout";
import { rollPath, stringWidth, stringY } from "@/score/neck";
import { levelFor, loadPeaks, ridge } from "@/score/peaks";
import type { Bench } from "@/score/types";
import type { Placed } from "@/score/view";
import { drawn } from "@/ui/signs";
import { DegreeTablet } from "./DegreeTablet";
import { NeckNote } from "./NeckNote";
import { FindingEdges, HeardWash } from "./Findings";
import { HeardCurves, OfferWash } from "./Offers";
import { FeelMarks, Paths } from "./Paths";

type Props = {
  index: number;
  axis: Axis;
  lanes: Lanes;
  strip: Bench["strip"];
  strings: Bench["tables"]["strings"];
  recordingId: string | null;
  notes: readonly Placed[];
  density: Density;
};

const SIGNS = { added: "+", gone: "−", moved: "↔", otherwise: "≈" } as const;

/** A name in the room before the next count. */
const shortened = (name: string, room: number): string => {
  const most = Math.max(1, Math.floor(room / 7.6));
  return name.length <= most ? name : `${name.slice(0, most - 1)}…`;
};

/** One stretch of the strip, drawn again only when something in it changes. Its text is for the eye; people and tests use the layer above. */
export const Chunk = memo(function Chunk({ index, axis, lanes, strip, strings, recordingId, notes, density }: Props) {
  const from = index * CHUNK;
  const to = from + CHUNK;
  const grid = useDocument((state) => state.grid);
  const under = useShown((state) => state.under);
  const compared = useShown((state) => state.compared);
  const x = useCallback((tick: number) => toPx(axis, grid.second(tick)), [axis, grid]);
  const near = (left: number, right: number) => right > from - 60 && left < to + 60;
  const bars = strip.bars.filter((bar) => near(x(bar.tick), x(bar.end)));
  const chords = strip.chords.filter((chord) => near(x(chord.tick), x(chord.end)));
  const first = toPx(axis, grid.second(strip.bars[0]?.tick ?? 0));
  const last = toPx(axis, grid.second(strip.bars[strip.bars.length - 1]?.end ?? 0));
  const barWidth = Math.max(0, ...bars.map((bar) => x(bar.end) - x(bar.tick)));
  const beats = barWidth > 110;
  const cueY = lanes.low ? lanes.sound : lanes.sound + lanes.soundHeight;
  const foot = lanes.low ? lanes.height : (lanes.feel ?? lanes.degrees + 60);

  return (
    <svg
      className="pointer-events-none absolute top-0"
      style={{ left: lanes.margin + from }}
      width={CHUNK}
      height={lanes.height}
      viewBox={`${from} 0 ${CHUNK} ${lanes.height}`}
      aria-hidden
    >
      {(lanes.low ? [] : strings).map((string) => (
        <line
          key={string.number}
          x1={Math.max(from, first)}
          x2={Math.min(to, last)}
          y1={stringY(lanes.neck, string.number)}
          y2={stringY(lanes.neck, string.number)}
          className="stroke-rule-2"
          strokeWidth={stringWidth(string.number, strings.length)}
        />
      ))}
      {bars.map((bar) => {
        const left = x(bar.tick);
        const every = barWidth > 54 || bar.number % 4 === 1;
        const own = x(bar.end) - left;
        return (
          <g key={bar.number}>
            <line
              x1={left}
              x2={left}
              y1={0}
              y2={foot}
              className="stroke-rule-2"
              strokeWidth={bar.section ? 2.5 : 1.2}
            />
            {every && (
              <text x={left + 7} y={21} fontSize={21} fontWeight={700} className="fill-ink">
                {bar.label}
              </text>
            )}
            {own > 60 && every && (bar.section === "" || lanes.low) && (
              <text x={left + 7} y={35} fontSize={13} className="fill-ink-2">
                {bar.clock}
              </text>
            )}
            {bar.section !== "" && !lanes.low && (
              <text
                x={left + 7}
                y={36}
                fontSize={14}
                fontWeight={700}
                className="fill-ink stroke-paper"
                strokeWidth={4}
                style={{ paintOrder: "stroke" }}
              >
                {shortened(bar.section, (beats ? x(bar.beats[1]?.tick ?? bar.end) - left : own) - 12)}
              </text>
            )}
            {own > 240 && changesKey(strip.bars, bar) && (
              <text
                x={left + own - 8}
                y={37}
                fontSize={14}
                fontWeight={700}
                textAnchor="end"
                className="fill-ink-2 stroke-paper"
                strokeWidth={4}
                style={{ paintOrder: "stroke" }}
              >
                {drawn(bar.key)}
              </text>
            )}
            {bar.meter !== "" && own > 340 && bar.section === "" && (
              <text
                x={left + (every ? 68 : 12)}
                y={37}
                fontSize={13}
                fontWeight={700}
                className="fill-ink-2 stroke-paper"
                strokeWidth={4}
                style={{ paintOrder: "stroke" }}
              >
                {bar.meter}
              </text>
            )}
            {beats &&
              bar.beats.map((beat) =>
                beat.tick === bar.tick ? null : (
                  <g key={beat.tick}>
                    <line x1={x(beat.tick)} x2={x(beat.tick)} y1={26} y2={34} className="stroke-rule-2" />
                    {lanes.low && (
                      <line
                        x1={x(beat.tick)}
                        x2={x(beat.tick)}
                        y1={lanes.sound}
                        y2={lanes.sound + lanes.soundHeight}
                        className="stroke-ink-3"
                        strokeDasharray="3 3"
                      />
                    )}
                    <text x={x(beat.tick)} y={22} fontSize={15} textAnchor="middle" className="fill-ink-2">
                      {beat.count}
                    </text>
                  </g>
                ),
              )}
          </g>
        );
      })}
      {to >= last && <line x1={last} x2={last} y1={0} y2={foot} className="stroke-rule-2" strokeWidth={3} />}
      {chords.map((chord) => {
        const left = x(chord.tick);
        const room = x(chord.end) - left;
        const size = fitting(chord.shown.length, room - 6, [22, 18, 15]);
        return (
          <g key={`${chord.id} ${chord.tick}`}>
            {size !== null && (
              <text x={left + 6} y={lanes.chords + 22} fontSize={size} fontWeight={700} className="fill-ink">
                {drawn(chord.shown)}
              </text>
            )}
            {room > 14 * chord.tones.length + 10 && (
              <text
                x={left + 6}
                y={lanes.chords + 41}
                fontSize={14}
                className="fill-ink-2"
                style={{ letterSpacing: 1 }}
              >
                {drawn(chord.tones.join(" "))}
              </text>
            )}
            <line
              x1={left + 1}
              x2={x(chord.end) - 4}
              y1={lanes.chords + 48}
              y2={lanes.chords + 48}
              className="stroke-ink-3"
              strokeWidth={2}
            />
          </g>
        );
      })}
      {!lanes.low && <OtherChords x={x} near={near} y={lanes.chords} />}
      <Sound recordingId={recordingId} from={from} axis={axis} y={lanes.sound} height={lanes.soundHeight} />
      {strip.cues
        .filter((cue) => near(x(cue.tick), x(cue.tick) + 200))
        .map((cue) => (
          <g key={cue.id}>
            <line x1={x(cue.tick)} x2={x(cue.tick)} y1={cueY} y2={cueY + 20} className="stroke-ink-3" strokeWidth={2} />
            <text x={x(cue.tick) + 5} y={cueY + 17} fontSize={14} fontStyle="italic" className="fill-ink-2">
              {cue.words}
            </text>
          </g>
        ))}
      {!lanes.low && (
        <>
          {under !== null && <Under notes={under.notes} of="part" axis={axis} near={near} lanes={lanes} />}
          {compared !== null && <Under notes={compared.under} of="compared" axis={axis} near={near} lanes={lanes} />}
          {compared?.differences
            .map((one) => ({ ...one, at: placeOf(one, notes, compared.under, axis) ?? x(one.tick) }))
            .filter(({ at }) => near(at, at + 20))
            .map((one) => (
              <text
                key={`${one.here ?? ""} ${one.there ?? ""}`}
                data-difference={one.kind}
                x={one.at}
                y={lanes.neck.top - 14}
                textAnchor="middle"
                fontSize={18}
                fontWeight={700}
                className="fill-pick"
              >
                {SIGNS[one.kind]}
              </text>
            ))}
          <OfferWash x={x} near={near} lanes={lanes} />
          <HeardWash near={near} axis={axis} lanes={lanes} />
          <HeardCurves near={near} axis={axis} lanes={lanes} />
          {notes.map((note) => (
            <NeckNote key={note.id} placed={note} neck={lanes.neck} pxPerS={axis.pxPerS} density={density} />
          ))}
          <FindingEdges x={x} near={near} lanes={lanes} notes={notes} />
          {lanes.paths === null && <Loudness x={x} near={near} lanes={lanes} notes={notes} />}
          {density !== "strokes" &&
            notes.map((note) => {
              const together = notes.filter((other) => other.note.tick === note.note.tick);
              const above = together.filter((other) => other.note.string < note.note.string).length;
              return (
                <DegreeTablet
                  key={note.id}
                  placed={note}
                  y={lanes.degrees}
                  stackIndex={above}
                  stackSize={together.length}
                  rows={lanes.stacked}
                  named={lanes.paths === null}
                  heldX={x}
                />
              );
            })}
          <Paths axis={axis} near={near} lanes={lanes} />
          <FeelMarks near={near} lanes={lanes} notes={notes} pxPerS={axis.pxPerS} />
        </>
      )}
    </svg>
  );
});

/** Where a difference stands: at the note here, else at the one that is gone. */
const placeOf = (
  one: Schemas["Difference"],
  notes: readonly Placed[],
  under: readonly Schemas["PartNote"][],
  axis: Axis,
): number | undefined => {
  const gone = one.here === null ? under.find((note) => note.id === one.there) : undefined;
  return gone === undefined ? notes.find((note) => note.id === one.here)?.x : toPx(axis, gone.second);
};

/** Notes of another part or state, pale under the ones in hand. */
function Under({
  notes,
  of,
  axis,
  near,
  lanes,
}: {
  notes: readonly Schemas["PartNote"][];
  of: "part" | "compared";
  axis: Axis;
  near: (left: number, right: number) => boolean;
  lanes: Lanes;
}) {
  return notes.map((note) => {
    const left = toPx(axis, note.second);
    const right = toPx(axis, note.end_second);
    const y = stringY(lanes.neck, note.string);
    return (
      near(left, right) && (
        <g key={note.id} data-under={of}>
          <line
            x1={left + 9}
            x2={Math.max(left + 9, right - 5)}
            y1={y}
            y2={y}
            className="stroke-tint"
            strokeWidth={5}
          />
          <text x={left} y={y + 7} fontSize={19} textAnchor="middle" className="fill-rule-2">
            {note.text}
          </text>
        </g>
      )
    );
  });
}

/** Changes that the teacher laid over the chart: their chords stand where its tones do, the first line in ink. */
function OtherChords({
  x,
  near,
  y,
}: {
  x: (tick: number) => number;
  near: (left: number, right: number) => boolean;
  y: number;
}) {
  const choices = useDocument((state) => state.elements.choices);
  return Object.values(choices)
    .filter((one) => one.kind === "changes")
    .filter((one) => near(x(one.start), x(one.end)))
    .map((one) => (
      <g key={one.id} data-other-changes={one.name} className={one.shown ? "" : "opacity-60"}>
        <rect
          x={x(one.start) + 1}
          y={y + 27}
          width={x(one.end) - x(one.start) - 5}
          height={20}
          className="fill-sheet"
        />
        {one.chords.map((chord) => (
          <text
            key={chord.tick}
            x={x(chord.tick) + 6}
            y={y + 42}
            fontSize={16}
            fontStyle="italic"
            fontWeight={one.shown ? 700 : 400}
            className="fill-ink"
          >
            {drawn(chord.symbol)}
          </text>
        ))}
      </g>
    ));
}

/** Loudness and swells under the neck, strokes before their stacks. */
function Loudness({
  x,
  near,
  lanes,
  notes,
}: {
  x: (tick: number) => number;
  near: (left: number, right: number) => boolean;
  lanes: Lanes;
  notes: readonly Placed[];
}) {
  const elements = useDocument((state) => state.elements);
  const y = lanes.neck.top + lanes.neck.spacing * (lanes.neck.strings - 1) + 22;
  const stacks = Object.values(elements.stacks).filter((stack) => stack.stroke != null || stack.spread_ms > 0);
  return (
    <>
      {Object.values(elements.dynamics)
        .filter((one) => near(x(one.tick), x(one.tick) + 30))
        .map((one) => (
          <text
            key={one.id}
            data-loudness={one.level}
            x={x(one.tick)}
            y={y}
            fontSize={17}
            fontWeight={700}
            fontStyle="italic"
            textAnchor="middle"
            className="fill-ink stroke-paper"
            strokeWidth={5}
            paintOrder="stroke"
          >
            {one.level}
          </text>
        ))}
      {Object.values(elements.swells)
        .filter((one) => near(x(one.start), x(one.end)))
        .map((one) => {
          const [thin, wide] =
            one.to === "louder" ? [x(one.start) + 24, x(one.end) - 6] : [x(one.end) - 6, x(one.start) + 24];
          return (
            <path
              key={one.id}
              data-swell={one.to}
              d={`M${wide} ${y - 11}L${thin} ${y - 5}L${wide} ${y + 1}`}
              fill="none"
              className="stroke-ink"
              strokeWidth={1.6}
            />
          );
        })}
      {stacks.map((stack) => {
        const of = notes.filter((one) => one.note.stack === stack.id).sort((a, b) => a.note.string - b.note.string);
        const [first, last] = [of[0], of[of.length - 1]];
        if (first === undefined || last === undefined || first === last) return null;
        const [thin, thick] = [stringY(lanes.neck, first.note.string), stringY(lanes.neck, last.note.string)];
        const at = first.x - 18;
        const down = stack.stroke === "up" ? rollPath(at, thin, thick) : rollPath(at, thick, thin);
        return (
          <path
            key={stack.id}
            data-stroke={stack.stroke ?? "spread"}
            d={stack.stroke === "together" ? `M${at + 5} ${thin}h-5V${thick}h5` : down}
            fill="none"
            className="stroke-ink"
            strokeWidth={1.8}
          />
        );
      })}
    </>
  );
}

const changesKey = (bars: Bench["strip"]["bars"], bar: Bench["strip"]["bars"][number]): boolean => {
  const before = bars[bars.indexOf(bar) - 1];
  return before !== undefined && before.key !== bar.key;
};

/** The sound as a ridge, drawn upwards only. */
function Sound({
  recordingId,
  from,
  axis,
  y,
  height,
}: {
  recordingId: string | null;
  from: number;
  axis: Axis;
  y: number;
  height: number;
}) {
  const [path, setPath] = useState("");
  const { startS, pxPerS } = axis;
  useEffect(() => {
    if (recordingId === null) return undefined;
    return latest(loadPeaks(recordingId, levelFor(pxPerS)), (peaks) =>
      setPath(ridge(peaks, startS + from / pxPerS, startS + (from + CHUNK) / pxPerS, CHUNK, height)),
    );
  }, [recordingId, from, startS, pxPerS, height]);
  return recordingId === null ? null : <path d={path} transform={`translate(${from} ${y})`} className="fill-tint" />;
}
