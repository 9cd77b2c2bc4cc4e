/** For an empty shelf: one bar of a recording, written on the strings, with its degrees, and practised up a stair. */
const STRINGS = [0, 1, 2, 3, 4, 5];
const RIDGE = [
  3, 9, 22, 14, 8, 6, 18, 30, 21, 12, 7, 5, 16, 26, 17, 10, 24, 34, 22, 13, 9, 7, 5, 4, 15, 25, 16, 9, 6, 4,
];
const NOTES = [
  { x: 150, string: 2, fret: "7", end: 206, degree: "1", core: true },
  { x: 214, string: 1, fret: "8", end: 300, degree: "4 → 5", core: true, bend: true },
  { x: 312, string: 1, fret: "5", end: 366, degree: "b3", core: true },
  { x: 374, string: 2, fret: "7", end: 470, degree: "1", core: true },
] as const;
const STAIR = [50, 60, 70, 80, 90, 100];
const neckY = (string: number): number => 112 + 18 * string;

export function WhereItLeads() {
  return (
    <figure className="mt-6">
      <svg
        viewBox="0 0 640 290"
        className="w-full max-w-[640px] border-y border-rule bg-sheet"
        role="img"
        aria-label="A bar of a recording: its sound, written on the strings with a bend, a degree under each note, and a stair of speeds to practise it"
      >
        <g className="fill-ink-2" fontSize={14}>
          <text x={14} y={62}>
            the sound
          </text>
          <text x={14} y={162}>
            written
          </text>
          <text x={14} y={250}>
            its degrees
          </text>
          <text x={516} y={62}>
            practised
          </text>
        </g>
        <text x={150} y={22} fontSize={19} fontWeight={700} className="fill-ink">
          Am7
        </text>
        {RIDGE.map((height, i) => (
          <rect key={i} x={150 + i * 11} y={82 - height} width={9} height={height} className="fill-tint" />
        ))}
        {STRINGS.map((string) => (
          <line
            key={string}
            x1={132}
            x2={490}
            y1={neckY(string)}
            y2={neckY(string)}
            className="stroke-rule-2"
            strokeWidth={0.8 + 0.25 * string}
          />
        ))}
        {NOTES.map((note) => {
          const y = neckY(note.string);
          const bends = "bend" in note;
          return (
            <g key={note.x}>
              <path
                d={
                  bends
                    ? `M${note.x + 12} ${y}L${note.x + 40} ${y - 22}H${note.end}`
                    : `M${note.x + 12} ${y}H${note.end}`
                }
                fill="none"
                className="stroke-ink"
                strokeWidth={3.4}
              />
              <rect x={note.x - 7} y={y - 11} width={16} height={22} className="fill-sheet" />
              <text x={note.x} y={y + 7} textAnchor="middle" fontSize={20} fontWeight={700} className="fill-ink">
                {note.fret}
              </text>
              <rect
                x={note.x - 12}
                y={232}
                width={note.degree.length > 2 ? 56 : 28}
                height={24}
                rx={5}
                className="fill-ink"
              />
              <text
                x={note.x - 12 + (note.degree.length > 2 ? 28 : 14)}
                y={250}
                textAnchor="middle"
                fontSize={15}
                fontWeight={700}
                className="fill-paper"
              >
                {note.degree.replace("b", "♭")}
              </text>
            </g>
          );
        })}
        {STAIR.map((step, i) => (
          <g key={step}>
            <rect
              x={516 + i * 19}
              y={220 - 1.2 * step}
              width={16}
              height={1.2 * step}
              className={i < 3 ? "fill-ink-3" : i === 3 ? "fill-sound" : "fill-tint"}
            />
            {i % 5 === 0 && (
              <text x={524 + i * 19} y={238} textAnchor="middle" fontSize={13} className="fill-ink-2">
                {step}
              </text>
            )}
          </g>
        ))}
      </svg>
      <figcaption className="mt-2 text-[15px] text-ink-2">
        From the sound to the strings, to the degree of every note, to a stair that a student climbs.
      </figcaption>
    </figure>
  );
}
