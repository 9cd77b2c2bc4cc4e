import { type PhraseRead, type Reading, setAnalysing, useAnalysing } from "@/score/analysis";
import { useDocument } from "@/score/document";
import { inOrder } from "@/score/elements";
import { drawn } from "@/ui/signs";
import { Strings } from "@/ui/Strings";

const WIDTH = 400;
const LEFT = 26;
const TOP = 16;
const FRETS = 7;
const SPACING = 25;

/** The notes of a phrase on the neck over what a reading covers; the next chord's third and seventh, where they are asked for. */
export function ReadingNeck({ phrase, reading, tick }: { phrase: PhraseRead; reading: Reading | null; tick: number }) {
  const tables = useDocument((state) => state.bench?.tables);
  const elements = useDocument((state) => state.elements);
  const views = useDocument((state) => state.views);
  const guides = useAnalysing((state) => state.guides);
  const guide = useAnalysing((state) => state.read?.guides.find((one) => one.start <= tick && tick < one.end));
  if (tables === undefined) return null;
  const notes = inOrder(elements.notes).filter(
    (note) => note.tick >= phrase.start && note.tick < phrase.end && note.fret != null && !note.dead,
  );
  const frets = notes.map((note) => (note.fret ?? 0) / 100).filter((fret) => fret > 0);
  const lowest = Math.min(...(frets.length > 0 ? frets : [1]), ...(reading?.places ?? []).map(({ fret }) => fret));
  const count = Math.max(FRETS, Math.ceil(Math.max(0, ...frets)) - Math.floor(lowest) + 2);
  const from = Math.max(0, Math.floor(lowest) - 1);
  const cell = (WIDTH - LEFT) / count;
  const x = (fret: number) => LEFT + (fret - from + 0.5) * cell;
  const y = (string: number) => TOP + SPACING * (string - 1);
  const bottom = y(tables.strings.length);
  const visible = (fret: number) => fret >= from && fret < from + count;
  const shaped = tables.strings.flatMap((string) =>
    string.classes.flatMap((pitchClass, fret) =>
      visible(fret) && reading?.classes.includes(pitchClass) === true ? [{ string: string.number, fret }] : [],
    ),
  );
  const places = (reading?.places.length ?? 0) > 0 ? (reading?.places ?? []) : shaped;
  const led = guides
    ? tables.strings.flatMap((string) =>
        string.classes.flatMap((pitchClass, fret) => {
          const tone = guide?.tones.find((one) => one.pitch_class === pitchClass);
          return visible(fret) && tone !== undefined ? [{ string: string.number, fret, degree: tone.degree }] : [];
        }),
      )
    : [];
  const shown = new Map(notes.map((note) => [`${note.string} ${note.fret}`, note]));
  return (
    <figure aria-label="The phrase on the neck">
      <figcaption className="text-[14px] text-ink-2">
        {reading === null ? "The phrase's notes" : `${drawn(reading.title)} under the phrase's notes`}
      </figcaption>
      <svg width="100%" viewBox={`0 0 ${WIDTH} ${bottom + 30}`} aria-hidden>
        {places
          .filter(({ fret }) => visible(fret))
          .map(({ string, fret }) => (
            <rect
              key={`${string} ${fret}`}
              data-covered={`${string} ${fret}`}
              x={x(fret) - cell / 2 + 2}
              y={y(string) - 11}
              width={cell - 4}
              height={22}
              rx={5}
              className="fill-tint"
            />
          ))}
        <Strings strings={tables.strings} left={LEFT} right={WIDTH} y={y} />
        {Array.from({ length: count + 1 }, (_, i) => (
          <line
            key={i}
            x1={LEFT + i * cell}
            x2={LEFT + i * cell}
            y1={TOP}
            y2={bottom}
            className={from === 0 && i === 1 ? "stroke-ink" : "stroke-rule-2"}
            strokeWidth={from === 0 && i === 1 ? 4 : 1.2}
          />
        ))}
        {Array.from({ length: count }, (_, i) => from + i).map((fret) => (
          <text key={fret} x={x(fret)} y={bottom + 25} textAnchor="middle" fontSize={15} className="fill-ink-2">
            {fret}
          </text>
        ))}
        {led.map(({ string, fret, degree }) => (
          <g key={`${string} ${fret}`} data-guide={degree}>
            <circle cx={x(fret)} cy={y(string)} r={11} className="fill-sheet stroke-pick" strokeWidth={2} />
            <text x={x(fret)} y={y(string) + 5} textAnchor="middle" fontSize={14} className="fill-pick">
              {drawn(degree)}
            </text>
          </g>
        ))}
        {[...shown.values()].map((note) => {
          const view = views[note.id];
          const filled = view?.shape === "chord tone" || view?.shape === "anticipation";
          const text = drawn(view?.degree ?? "");
          const width = Math.max(24, 10 + 9 * text.length);
          const fret = (note.fret ?? 0) / 100;
          return visible(fret) ? (
            <g key={note.id} data-place={`${note.string} ${fret}`}>
              <rect
                x={x(fret) - width / 2}
                y={y(note.string) - 10}
                width={width}
                height={20}
                rx={5}
                strokeWidth={1.8}
                className={filled ? "fill-ink stroke-ink" : "fill-sheet stroke-ink"}
              />
              <text
                x={x(fret)}
                y={y(note.string) + 5}
                textAnchor="middle"
                fontSize={14}
                fontWeight={700}
                className={filled ? "fill-paper" : "fill-ink"}
              >
                {text}
              </text>
            </g>
          ) : null;
        })}
      </svg>
      {guide !== undefined && (
        <label className="flex items-center gap-2 text-[14px]">
          <input
            type="checkbox"
            checked={guides}
            onChange={(event) => setAnalysing({ guides: event.target.checked })}
          />
          show where the 3 and the 7 of {drawn(guide.symbol)} lie
        </label>
      )}
    </figure>
  );
}
