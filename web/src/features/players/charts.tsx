import { drawn } from "@/ui/signs";
import type { Figure, Group } from "./portrait";

const INK = { one: "fill-ink", light: "fill-ink-3 opacity-60", other: "fill-none stroke-pick" };
type Open = (group: string, answer: string) => void;
type Props = { group: Group; beside: boolean; onOpen: Open };

const said = (one: Figure): string => `${drawn(one.label)}: ${one.count} of ${one.of}`;

/** Degrees over one quality of chord, of 100 notes by sounding time or by count; the other side in outline. */
export function DegreeBars({ group, beside, byTime, onOpen }: Props & { byTime: boolean }) {
  const [width, height, base] = [404, 196, 168];
  const cell = width / group.figures.length;
  const shareOf = (one: Figure) => (byTime ? one.time_share : one.share);
  const otherOf = (one: Figure) => (byTime ? one.beside_time : one.beside) ?? 0;
  const most = Math.max(0.05, ...group.figures.flatMap((one) => [shareOf(one), otherOf(one)]));
  const tall = (share: number) => (share / most) * (base - 22);
  return (
    <svg viewBox={`0 0 ${width} ${height}`} width="100%" role="group" aria-label={group.title} data-chart="degrees">
      <line x1={0} x2={width} y1={base} y2={base} className="stroke-ink-3" />
      {group.figures.map((one, i) => (
        <g key={one.answer}>
          <g
            role="button"
            tabIndex={one.count > 0 ? 0 : -1}
            aria-label={said(one)}
            className={one.count > 0 ? "cursor-pointer" : ""}
            onClick={() => one.count > 0 && onOpen(group.group, one.answer)}
            onKeyDown={(event) => event.key === "Enter" && onOpen(group.group, one.answer)}
          >
            <rect x={i * cell} y={0} width={cell} height={height} className="fill-transparent" stroke="none" />
            <rect
              x={i * cell + 6}
              y={base - tall(shareOf(one))}
              width={beside ? cell * 0.42 : cell - 14}
              height={tall(shareOf(one))}
              className={one.light ? INK.light : INK.one}
              stroke="none"
            />
            {beside && (
              <rect
                x={i * cell + 8 + cell * 0.42}
                y={base - tall(otherOf(one))}
                width={cell * 0.26}
                height={tall(otherOf(one))}
                className={INK.other}
                strokeWidth={1.6}
              />
            )}
          </g>
          {shareOf(one) >= 0.1 && (
            <text
              pointerEvents="none"
              x={i * cell + cell / 2 - (beside ? 5 : 0)}
              y={base - tall(shareOf(one)) - 5}
              fontSize={14}
              textAnchor="middle"
              className="fill-ink-2"
              stroke="none"
            >
              {Math.round(100 * shareOf(one))}
            </text>
          )}
          <text
            pointerEvents="none"
            x={i * cell + cell / 2}
            y={height - 9}
            fontSize={15}
            fontWeight={700}
            textAnchor="middle"
            className={one.count > 0 ? "fill-ink" : "fill-ink-3"}
            stroke="none"
          >
            {drawn(one.label)}
          </text>
        </g>
      ))}
    </svg>
  );
}

/** Where phrases start, upwards, and end, downwards, beat by beat. */
export function Beats({ starts, ends, onOpen }: { starts: Group; ends: Group; onOpen: Open }) {
  const places = [...new Set([...starts.figures, ...ends.figures].map(({ answer }) => Number(answer)))];
  const last = Math.max(9, ...places);
  const all = Array.from({ length: last - 1 }, (_, i) => i + 2);
  const [width, half] = [404, 86];
  const cell = width / all.length;
  const find = (group: Group, place: number) => group.figures.find(({ answer }) => Number(answer) === place);
  const most = Math.max(0.05, ...starts.figures.map(({ share }) => share), ...ends.figures.map(({ share }) => share));
  const bar = (group: Group, place: number, up: boolean) => {
    const one = find(group, place);
    if (one === undefined || one.count === 0) return null;
    const tall = (one.share / most) * (half - 8);
    return (
      <rect
        role="button"
        tabIndex={0}
        aria-label={`${up ? "starts" : "ends"} ${said(one)}`}
        onClick={() => onOpen(group.group, one.answer)}
        onKeyDown={(event) => event.key === "Enter" && onOpen(group.group, one.answer)}
        x={(place - 2) * cell + 7}
        y={up ? half - tall : half + 26}
        width={cell - 14}
        height={tall}
        className={`cursor-pointer ${up ? (one.light ? INK.light : INK.one) : one.light ? "fill-tint opacity-60" : "fill-tint"}`}
      />
    );
  };
  return (
    <svg
      viewBox={`0 0 ${width} ${2 * half + 26}`}
      width="100%"
      role="group"
      aria-label="Where phrases start and end in the bar"
      data-chart="beats"
    >
      {all.map((place) => (
        <g key={place}>
          {bar(starts, place, true)}
          {bar(ends, place, false)}
          <text
            x={(place - 2) * cell + cell / 2}
            y={half + 18}
            fontSize={15}
            fontWeight={700}
            textAnchor="middle"
            className="fill-ink"
          >
            {place % 2 === 0 ? place / 2 : "+"}
          </text>
        </g>
      ))}
    </svg>
  );
}

/** Where on the neck: a dot a place, larger where more is played. */
export function Neck({ places, onOpen }: { places: Group; onOpen: Open }) {
  const dots = places.figures
    .filter(({ count }) => count > 0)
    .map((one) => ({ one, string: Number(one.answer.split("/")[0]), fret: Number(one.answer.split("/")[1]) }));
  const strings = Math.max(6, ...dots.map(({ string }) => string));
  const low = Math.max(0, Math.min(...dots.map(({ fret }) => fret)) - 1);
  const high = Math.max(low + 9, ...dots.map(({ fret }) => fret));
  const [width, row, left, top] = [340, 25, 22, 14];
  const x = (fret: number) => left + ((fret - low + 0.5) / (high - low + 1)) * (width - left);
  const y = (string: number) => top + row * (string - 1);
  const most = Math.max(1, ...dots.map(({ one }) => one.count));
  return (
    <svg
      viewBox={`0 0 ${width} ${y(strings) + 34}`}
      width="100%"
      role="group"
      aria-label="On the neck"
      data-chart="neck"
    >
      {Array.from({ length: strings }, (_, i) => (
        <g key={i}>
          <text x={4} y={y(i + 1) + 5} fontSize={14} className="fill-ink-2">
            {i + 1}
          </text>
          <line x1={left} x2={width} y1={y(i + 1)} y2={y(i + 1)} className="stroke-rule-2" strokeWidth={1 + i * 0.35} />
        </g>
      ))}
      {dots.map(({ one, string, fret }) => (
        <circle
          key={one.answer}
          role="button"
          tabIndex={0}
          aria-label={said(one)}
          cx={x(fret)}
          cy={y(string)}
          r={2.5 + 8.5 * Math.sqrt(one.count / most)}
          className="cursor-pointer fill-ink"
          opacity={0.55 + 0.4 * (one.count / most)}
          onClick={() => onOpen(places.group, one.answer)}
          onKeyDown={(event) => event.key === "Enter" && onOpen(places.group, one.answer)}
        />
      ))}
      {[0, 3, 5, 7, 9, 12, 15, 17, 19, 21]
        .filter((fret) => fret >= low && fret <= high)
        .map((fret) => (
          <text key={fret} x={x(fret)} y={y(strings) + 26} fontSize={14} textAnchor="middle" className="fill-ink-2">
            {fret === 0 ? "open" : fret}
          </text>
        ))}
    </svg>
  );
}
