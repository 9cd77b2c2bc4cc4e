import { memo, useMemo } from "react";
import { atHand, setCursor, useCursor } from "@/score/cursor";
import { useDocument } from "@/score/document";
import { useShown } from "@/score/shown";
import { handNow, useEntry } from "@/score/entry";
import { inOrder } from "@/score/elements";
import { capOf, deadColumns, keysOnNeck, type Place, stringKeys } from "@/score/hand";
import { drawn } from "@/ui/signs";
import { HandMapFigure } from "./HandMapFigure";
import { Strings } from "@/ui/Strings";

type Props = { flip: boolean; mirrored: boolean; numbers: boolean; onPlace: (place: Place) => void };

const WIDTH = 560;
const LEFT = 26;
const TOP = 24;
const FRETS_SHOWN = 10;
const tableTop = 36; // frets of the longest neck

/** The neck seen from above: the phrase's notes with their degrees, the one in hand, and the hand block lying on it. */
export function NeckMap({ flip, mirrored, numbers, onPlace }: Props) {
  const tables = useDocument((state) => state.bench?.tables);
  const chords = useDocument((state) => state.bench?.strip.chords);
  const bars = useDocument((state) => state.bench?.strip.bars);
  const elements = useDocument((state) => state.elements);
  const views = useDocument((state) => state.views);
  const cursor = useCursor((state) => state.cursor);
  const picked = useCursor((state) => state.picked);
  const map = useShown((state) => state.handMap);
  const previewed = useShown((state) => state.ways);
  const way = previewed?.found.ways[previewed.at];
  const written = useEntry((state) => state.position);
  const hand =
    way === undefined
      ? written
      : Math.min(...way.places.filter((place) => place.fret > 0).map((place) => place.position), tableTop);
  const slide = useEntry((state) => state.slide);
  const block = useMemo(() => handNow(mirrored), [hand, slide, mirrored, tables]); // eslint-disable-line react-hooks/exhaustive-deps -- read from the store
  if (tables === undefined || chords === undefined) return null;
  if (map !== null) return <HandMapFigure map={map} tables={tables} flip={flip} />;
  const strings = tables.strings.length;
  const spacing = Math.min(20, 104 / Math.max(1, strings - 1));
  const from = Math.max(0, Math.min(hand - 3, tables.frets - FRETS_SHOWN));
  const count = Math.min(FRETS_SHOWN, tables.frets - from + 1);
  const cell = (WIDTH - LEFT) / count;
  // The open strings have a column of their own, left of the nut.
  const x = (fret: number) => LEFT + (fret - from + 0.5) * cell;
  const y = (string: number) => TOP + spacing * (flip ? strings - string : string - 1);
  const bottom = TOP + spacing * (strings - 1);
  const chord = chords.find((one) => one.tick <= cursor.tick && cursor.tick < one.end);
  const phrase = Object.values(elements.phrases).find((one) => one.start <= cursor.tick && cursor.tick < one.end);
  const bar = bars?.find((one) => one.tick <= cursor.tick && cursor.tick < one.end);
  const [start, end] = phrase === undefined ? [bar?.tick ?? 0, bar?.end ?? 0] : [phrase.start, phrase.end];
  const over = (string: number, fret: number) => chord?.slots[tables.strings[string - 1]?.classes[fret] ?? -1];
  const shown = new Map<string, { id: string; string: number; fret: number; degree: string; shape: string }>();
  for (const note of inOrder(elements.notes)) {
    if (note.tick < start || note.tick >= end || note.fret == null || note.dead) continue;
    const key = `${note.string} ${note.fret}`;
    const slot = over(note.string, note.fret / 100);
    if (!shown.has(key) || note.id === picked)
      shown.set(key, {
        id: note.id,
        string: note.string,
        fret: note.fret / 100,
        degree: slot?.degree ?? "",
        shape: slot?.shape ?? "none",
      });
  }
  const inHand = picked === null ? undefined : elements.notes[picked];
  const elsewhere = picked === null || way !== undefined ? [] : (views[picked]?.elsewhere ?? []);
  const keys = (numbers ? [] : keysOnNeck(block)).filter(({ place }) => place.fret <= tables.frets);
  const visible = (fret: number) => fret >= from && fret < from + count;
  const dead = deadColumns(block);
  const words = [
    chord === undefined ? "no chord here: frets" : `over ${drawn(chord.shown)}`,
    phrase === undefined ? "this bar's notes" : "the phrase's notes",
    numbers
      ? `strings ${stringKeys(mirrored).map(capOf).join(" ")}, frets by digits`
      : way === undefined
        ? `hand at fret ${hand}, keys in small`
        : `filled: this fingering, hand at fret ${hand}`,
    numbers ? null : dead > 0 ? `${dead} columns of keys are dead` : null,
    elsewhere.length > 0 ? "dashed: same pitch" : null,
  ]
    .filter(Boolean)
    .join(" · ");

  return (
    <figure aria-label="The neck from above" className="relative max-sm:hidden">
      <figcaption className="text-[14px] text-ink-2">{words}</figcaption>
      <svg width="100%" viewBox={`0 0 ${WIDTH} ${bottom + 24}`} aria-hidden>
        <Strings strings={tables.strings} left={LEFT} right={WIDTH} y={y} />
        {Array.from({ length: count + 1 }, (_, i) => {
          const line = LEFT + i * cell;
          const nut = from === 0 && i === 1;
          return from === 0 && i === 0 ? null : (
            <line
              key={i}
              x1={line}
              x2={line}
              y1={TOP}
              y2={bottom}
              className={nut ? "stroke-ink" : "stroke-rule-2"}
              strokeWidth={nut ? 4 : 1.2}
            />
          );
        })}
        {Array.from({ length: count }, (_, i) => from + i).map((fret) => (
          <text
            key={fret}
            x={x(fret)}
            y={bottom + 21}
            textAnchor="middle"
            fontSize={15}
            fontWeight={tables.inlays.includes(fret) ? 700 : 400}
            className={tables.inlays.includes(fret) ? "fill-ink" : "fill-ink-2"}
          >
            {fret}
          </text>
        ))}
        {visible(hand) && (
          <line
            x1={x(hand) - cell / 2}
            x2={Math.min(WIDTH, x(hand + 3) + cell / 2)}
            y1={TOP - 13}
            y2={TOP - 13}
            className="stroke-pick"
            strokeWidth={3}
          />
        )}
        {keys.map(
          ({ code, place }) =>
            visible(place.fret) && (
              <text
                key={code}
                x={x(place.fret) - cell / 2 + 8}
                y={y(place.string) + 5}
                textAnchor="middle"
                fontSize={13}
                fontWeight={700}
                className="fill-ink-3 stroke-sheet"
                strokeWidth={4}
                paintOrder="stroke"
              >
                {capOf(code)}
              </text>
            ),
        )}
        {[...shown.values()].map(
          (note) =>
            visible(note.fret) && (
              <g key={note.id} data-note={note.id} data-place={`${note.string} ${note.fret}`}>
                <Tablet
                  x={x(note.fret) + 6}
                  y={y(note.string)}
                  text={note.degree === "" ? String(note.fret) : drawn(note.degree)}
                  shape={note.shape}
                  picked={note.id === picked}
                />
              </g>
            ),
        )}
        {elsewhere.map(
          (place) =>
            visible(place.fret) && (
              <g key={`${place.string} ${place.fret}`}>
                <rect
                  x={x(place.fret) - 9}
                  y={y(place.string) - 10}
                  width={30}
                  height={20}
                  rx={5}
                  className="fill-sheet stroke-pick"
                  strokeWidth={1.8}
                  strokeDasharray="4 3"
                />
                <text
                  x={x(place.fret) + 6}
                  y={y(place.string) + 5}
                  textAnchor="middle"
                  fontSize={14}
                  fontWeight={700}
                  className="fill-pick"
                >
                  {drawn(over(place.string, place.fret)?.degree ?? "")}
                </text>
              </g>
            ),
        )}
        {way?.places.map(
          (place) =>
            visible(place.fret / 100) && (
              <g key={place.note} data-way={`${place.string} ${place.fret / 100}`}>
                <rect
                  x={x(place.fret / 100) - 9}
                  y={y(place.string) - 10}
                  width={30}
                  height={20}
                  rx={5}
                  className="fill-pick stroke-pick"
                  strokeWidth={1.8}
                />
                <text
                  x={x(place.fret / 100) + 6}
                  y={y(place.string) + 5}
                  textAnchor="middle"
                  fontSize={14}
                  fontWeight={700}
                  className="fill-paper"
                >
                  {place.finger === 0 ? "o" : (place.finger ?? "")}
                </text>
              </g>
            ),
        )}
        {inHand?.fret != null && visible(inHand.fret / 100) && (
          <rect
            x={x(inHand.fret / 100) - 11}
            y={y(inHand.string) - 12}
            width={34}
            height={24}
            rx={6}
            fill="none"
            className="stroke-pick"
            strokeWidth={2.4}
          />
        )}
      </svg>
      <Places strings={strings} from={from} count={count} flip={flip} onPlace={onPlace} />
    </figure>
  );
}

/** A click writes as the key does; drawn again only when the piece of neck in view changes. */
const Places = memo(function Places({
  strings,
  from,
  count,
  flip,
  onPlace,
}: {
  strings: number;
  from: number;
  count: number;
  flip: boolean;
  onPlace: (place: Place) => void;
}) {
  const spacing = Math.min(20, 104 / Math.max(1, strings - 1));
  const cell = (WIDTH - LEFT) / count;
  const height = TOP + spacing * (strings - 1) + 24;
  const top = (string: number) => TOP + spacing * ((flip ? strings - string : string - 1) - 0.5);
  return (
    <div
      className="absolute inset-x-0 bottom-0"
      style={{ aspectRatio: `${WIDTH} / ${height}` }}
      role="group"
      aria-label="Places"
    >
      {Array.from({ length: strings }, (_, i) => i + 1).flatMap((string) =>
        Array.from({ length: count }, (_, i) => from + i).map((fret) => (
          <button
            key={`${string} ${fret}`}
            type="button"
            tabIndex={-1}
            aria-label={`String ${string}, fret ${fret}`}
            onClick={() => {
              setCursor({ string }, atHand().picked);
              onPlace({ string, fret });
            }}
            className="absolute hover:bg-pick/20"
            style={{
              left: `${((LEFT + (fret - from) * cell) / WIDTH) * 100}%`,
              width: `${(cell / WIDTH) * 100}%`,
              top: `${(top(string) / height) * 100}%`,
              height: `${(spacing / height) * 100}%`,
            }}
          />
        )),
      )}
    </div>
  );
});

function Tablet({ x, y, text, shape, picked }: { x: number; y: number; text: string; shape: string; picked: boolean }) {
  const filled = shape === "chord tone" || shape === "anticipation";
  const width = Math.max(26, 12 + 9 * text.length);
  return (
    <>
      <rect
        x={x - width / 2}
        y={y - 9}
        width={width}
        height={18}
        rx={4}
        strokeWidth={1.6}
        className={`number-box ${picked ? "fill-pick stroke-pick" : filled ? "fill-ink stroke-ink" : "fill-sheet stroke-ink-2"}`}
      />
      <text
        x={x}
        y={y + 5}
        textAnchor="middle"
        fontSize={14}
        fontWeight={700}
        className={picked || filled ? "fill-paper" : "fill-ink"}
      >
        {text}
      </text>
    </>
  );
}
