import { useEffect, useRef, useState } from "react";
import { download, svgText } from "@/score/exporting";
import { Button, Field, Menu } from "@/ui/parts";
import { Select } from "@/ui/Select";
import { drawn } from "@/ui/signs";
import { Beats, DegreeBars, Neck } from "./charts";
import { PlacesPanel } from "./PlacesPanel";
import { type Group, open, type Portrait, queryOf, show, type Side, sideOf, usePlayers } from "./portrait";

const DRAWN = new Set(["starts", "ends", "places", "frets"]);
const SETTINGS = [
  { value: "", words: "studio and live" },
  { value: "studio", words: "in the studio" },
  { value: "live", words: "live" },
];
const MOST = 8; // answers of a question, before the rest is asked for

type Props = { player: string; onOpenNotes: (solo: string, note: string) => void };

/** What a player does again and again, degrees, beats, neck, and what differs from another. */
export function PlayerPage({ player, onOpenNotes }: Props) {
  const portrait = usePlayers((state) => state.portrait);
  const side = usePlayers((state) => state.side);
  const beside = usePlayers((state) => state.beside);
  const trouble = usePlayers((state) => state.trouble);
  const opened = usePlayers((state) => state.opened);
  useEffect(() => void show(sideOf(player), null), [player]);
  const wrong = trouble !== null && (
    <p role="alert" className="m-8 border-l-4 border-doubt bg-sheet px-4 py-3">
      {trouble}
    </p>
  );
  // What went wrong does not take away what would undo it.
  if (portrait === null || side === null) return wrong || <p className="p-8 text-ink-2">Counting …</p>;
  return (
    <div className="grid grid-cols-[minmax(0,1fr)_auto] max-lg:grid-cols-1">
      <main className="min-w-0 px-7 py-4 max-sm:px-4 print:p-0">
        <Head portrait={portrait} side={side} beside={beside} />
        {wrong}
        {portrait.one.solos === 0 ? (
          <p className="py-8 text-[18px] text-ink-2">
            {side.tune !== "" || side.setting !== "" || side.since !== "" || side.until !== ""
              ? "No solo of this player matches what you chose above."
              : "There are no figures yet: this player has no written solo, or only versions, quotes and disputed ones, which do not count."}
          </p>
        ) : (
          <Page portrait={portrait} />
        )}
      </main>
      {opened !== null && <PlacesPanel onOpenNotes={onOpenNotes} />}
    </div>
  );
}

function Head({ portrait, side, beside }: { portrait: Portrait; side: Side; beside: Side | null }) {
  const players = usePlayers((state) => state.players);
  const change = (next: Partial<Side>) => void show({ ...side, ...next }, beside);
  const put = (next: Partial<Side> | null) =>
    void show(side, next === null ? null : { ...(beside ?? sideOf(side.player)), ...next });
  return (
    <header className="mb-3 flex flex-wrap items-end justify-between gap-x-8 gap-y-2">
      <div>
        <h1 className="font-naming text-[30px] font-semibold leading-9">
          {portrait.one.name} <span className="font-text text-[15px] font-normal text-ink-2">{portrait.one.says}</span>
        </h1>
        <p className="text-[14px] text-ink-2">
          {portrait.one.sample}
          {portrait.one.unsure > 0 && ` ${portrait.one.unsure} unsure notes are not counted.`}
        </p>
        <Narrowed side={side} portrait={portrait} label="count" onChange={change} />
      </div>
      <div className="print:hidden">
        <div className="flex items-center gap-2">
          <span className="text-ink-2">beside</span>
          <Select
            small
            label="Beside"
            options={[
              { value: "", words: "nobody" },
              ...(players ?? []).map(({ id, name }) => ({
                value: id,
                words: id === side.player ? `${name}, other solos` : name,
              })),
            ]}
            value={beside?.player ?? ""}
            onChoose={(id) => put(id === "" ? null : sideOf(id))}
          />
          {portrait.beside !== null && <span className="text-[14px] text-ink-2">{portrait.beside.says}</span>}
        </div>
        {beside !== null && <Narrowed side={beside} portrait={portrait} label="beside, count" onChange={put} />}
        {portrait.beside !== null && (
          <p className="text-[14px] font-bold text-pick">blue outline: {portrait.beside.name}</p>
        )}
      </div>
    </header>
  );
}

type YearProps = { label: string; example: number | undefined; year: string; onYear: (year: string) => void };

/** A year counts once its four digits are there, or none is left. */
function Year({ label, example, year, onYear }: YearProps) {
  const [typed, setTyped] = useState(year);
  useEffect(() => setTyped(year), [year]);
  return (
    <Field
      inline
      label={label}
      type="number"
      placeholder={example === undefined ? "year" : String(example)}
      value={typed}
      onChange={({ target: { value } }) => {
        setTyped(value);
        if ((value.length === 4 || value === "") && value !== year) onYear(value);
      }}
    />
  );
}

/** Which solos are counted: of one tune, of some years, in a studio or live. */
function Narrowed({
  side,
  portrait,
  label,
  onChange,
}: {
  side: Side;
  portrait: Portrait;
  label: string;
  onChange: (change: Partial<Side>) => void;
}) {
  return (
    <div className="mt-1 flex flex-wrap items-center gap-2 text-[14px] print:hidden">
      <Select
        small
        label={`${label}: tune`}
        options={[
          { value: "", words: "all tunes" },
          ...portrait.tunes.map(([id, title]) => ({ value: id, words: title })),
        ]}
        value={side.tune}
        onChoose={(tune) => onChange({ tune })}
      />
      <Select
        small
        label={`${label}: setting`}
        options={SETTINGS}
        value={side.setting}
        onChoose={(setting) => onChange({ setting })}
      />
      {(portrait.years.length > 1 || side.since !== "" || side.until !== "") && (
        <>
          <Year label="from" example={portrait.years[0]} year={side.since} onYear={(since) => onChange({ since })} />
          <Year
            label="to"
            example={portrait.years[portrait.years.length - 1]}
            year={side.until}
            onYear={(until) => onChange({ until })}
          />
        </>
      )}
    </div>
  );
}

const openFigure = (group: string, answer: string): void => void open(group, answer);

function Page({ portrait }: { portrait: Portrait }) {
  const [quality, setQuality] = useState<string | null>(null);
  const [byTime, setByTime] = useState(true);
  const charts = useRef<HTMLDivElement>(null);
  const side = usePlayers((state) => state.side);
  const other = usePlayers((state) => state.beside);
  const degrees = portrait.groups.filter(({ group }) => group.startsWith("degrees "));
  const shown = degrees.find(({ group }) => group === quality) ?? degrees[0];
  const group = (name: string) => portrait.groups.find((one) => one.group === name);
  const [starts, ends, places] = [group("starts"), group("ends"), group("places")];
  const rest = portrait.groups.filter((one) => !DRAWN.has(one.group) && !one.group.startsWith("degrees "));
  const beside = portrait.beside !== null;
  const csv = () => {
    if (side === null) return;
    const query = new URLSearchParams(queryOf(side, other)).toString();
    location.assign(`/api/players/${side.player}/figures.csv?${query}`);
  };
  const drawing = (name: string) => {
    const element = charts.current?.querySelector<SVGSVGElement>(`svg[data-chart="${name}"]`);
    if (element) download(`${name}.svg`, svgText(element), "image/svg+xml");
  };
  return (
    <div ref={charts}>
      <div className="grid grid-cols-[1.1fr_1.05fr_.85fr] gap-x-8 gap-y-5 max-lg:grid-cols-1 print:grid-cols-[1.1fr_1.05fr_.85fr]">
        <section aria-label="Again and again">
          <Title>Again and again</Title>
          <ul>
            {portrait.habits.map((habit) => (
              <li key={habit.says} className={`border-b border-rule ${habit.light ? "text-ink-3" : ""}`}>
                <button
                  type="button"
                  className="grid w-full grid-cols-[minmax(0,1fr)_auto] gap-x-3 py-1.5 text-left hover:bg-sheet"
                  onClick={() => openFigure(habit.group, habit.answer)}
                >
                  <span className="text-[16px] font-bold">{drawn(habit.says)}</span>
                  <span className="text-[14px] text-pick">{habit.beside}</span>
                  <span className={`text-[14px] ${habit.light ? "" : "text-ink-2"}`}>{drawn(habit.more)}</span>
                </button>
              </li>
            ))}
            {portrait.placement !== "" && (
              <li className="border-b border-rule py-1.5">
                <span className="block text-[16px] font-bold">sits {portrait.placement}</span>
              </li>
            )}
          </ul>
          <Cells portrait={portrait} />
          <p className="mt-2 text-[14px] text-ink-2">
            Every line opens the notes that it counts, and plays them. Fewer than 20 chances are in light ink.
          </p>
        </section>
        <div className="flex flex-col gap-5">
          {shown !== undefined && (
            <section aria-label="Degrees">
              <Title>
                Degrees over{" "}
                <span className="inline-block align-bottom font-text text-[16px]">
                  <Select
                    small
                    label="Chords"
                    options={degrees.map((one) => ({
                      value: one.group,
                      words: one.title.replace("Degrees over ", ""),
                    }))}
                    value={shown.group}
                    onChoose={setQuality}
                  />
                </span>
              </Title>
              <DegreeBars group={shown} beside={beside} byTime={byTime} onOpen={openFigure} />
              <p className="text-[14px] text-ink-2">
                of 100 notes,{" "}
                <button type="button" className="underline underline-offset-4" onClick={() => setByTime(!byTime)}>
                  {byTime ? "by sounding time" : "by count"}
                </button>
              </p>
            </section>
          )}
          {starts !== undefined && ends !== undefined && (
            <section aria-label="Starts and ends">
              <Title>Where phrases start and end in the bar</Title>
              <Beats starts={starts} ends={ends} onOpen={openFigure} />
              <p className="text-[14px] text-ink-2">starts upwards, ends downwards</p>
            </section>
          )}
        </div>
        <div className="flex flex-col gap-5">
          {places !== undefined && (
            <section aria-label="Neck">
              <Title>On the neck</Title>
              <Neck places={places} onOpen={openFigure} />
            </section>
          )}
          <Differs portrait={portrait} />
          <div className="flex gap-2 print:hidden">
            <Menu
              label="Export figures"
              items={[
                { name: "Columns (CSV)", act: csv },
                { name: "Degrees (SVG)", act: () => drawing("degrees") },
                { name: "Starts and ends (SVG)", act: () => drawing("beats") },
                { name: "Neck (SVG)", act: () => drawing("neck") },
              ]}
            />
            <Button size="small" onClick={() => window.print()}>
              Print
            </Button>
          </div>
        </div>
      </div>
      <section aria-label="All figures" className="mt-6 border-t-2 border-ink pt-3 print:hidden">
        <div className="grid grid-cols-3 gap-x-8 gap-y-5 max-lg:grid-cols-2 max-sm:grid-cols-1">
          {rest.map((one) => (
            <Answers key={one.group} group={one} beside={beside} />
          ))}
          <Measured portrait={portrait} />
        </div>
      </section>
    </div>
  );
}

const Title = ({ children }: { children: React.ReactNode }) => (
  <h2 className="mb-1 border-b-2 border-ink pb-1 font-naming text-[20px] font-semibold">{children}</h2>
);

function Cells({ portrait }: { portrait: Portrait }) {
  if (portrait.cells === null) return <p className="mt-2 text-[14px] text-ink-2">Favourite cells are being counted.</p>;
  if (portrait.cells.length === 0) return null;
  return (
    <>
      <h3 className="mt-3 font-bold">Comes back to</h3>
      <ul>
        {portrait.cells.map((cell) => (
          <li key={cell.answer} className="border-b border-rule">
            <button
              type="button"
              className="flex w-full items-baseline justify-between gap-3 py-1 text-left hover:bg-sheet"
              onClick={() => openFigure("cells", cell.answer)}
            >
              <span className="text-[16px] font-bold tracking-wide">{drawn(cell.label)}</span>
              <span className="text-[14px] text-ink-2">
                {cell.phrases} phrases, {cell.expected} by chance
              </span>
            </button>
          </li>
        ))}
      </ul>
    </>
  );
}

function Differs({ portrait }: { portrait: Portrait }) {
  if (portrait.beside === null) return null;
  return (
    <section aria-label="What differs most">
      <Title>What differs most</Title>
      {portrait.differs.length === 0 && (
        <p className="text-[15px] text-ink-2">Nothing that is sure: the samples are small, or the two play alike.</p>
      )}
      {portrait.differs.slice(0, 6).map((one) => (
        <button
          key={one.says}
          type="button"
          className="mb-1.5 block text-left text-[15px] leading-snug hover:underline"
          onClick={() => openFigure(one.group, one.answer)}
        >
          {drawn(one.says)}
        </button>
      ))}
    </section>
  );
}

function Answers({ group, beside }: { group: Group; beside: boolean }) {
  const [all, setAll] = useState(false);
  const figures = all ? group.figures : group.figures.slice(0, MOST);
  return (
    <section aria-label={group.title}>
      <h3 className="border-b border-rule-2 font-bold">{drawn(group.title)}</h3>
      <table className="w-full text-[15px]">
        <tbody>
          {figures.map((one) => (
            <tr key={one.answer} className={one.light ? "text-ink-3" : ""}>
              <td>
                <button
                  type="button"
                  disabled={one.count === 0}
                  className="min-h-6 min-w-6 text-left leading-6 enabled:hover:underline"
                  onClick={() => openFigure(group.group, one.answer)}
                >
                  {drawn(one.label)}
                </button>
              </td>
              <td className="w-10 text-right font-bold">{one.count}</td>
              <td className="w-14 text-right text-[14px]">{Math.round(1000 * one.share) / 10} %</td>
              {beside && (
                <td className="w-14 text-right text-[14px] text-pick">
                  {one.beside === null ? "" : `${Math.round(1000 * one.beside) / 10} %`}
                </td>
              )}
            </tr>
          ))}
        </tbody>
      </table>
      {group.figures.length > MOST && (
        <button type="button" className="min-h-6 text-[14px] underline underline-offset-4" onClick={() => setAll(!all)}>
          {all ? "fewer" : `all ${group.figures.length}`}
        </button>
      )}
    </section>
  );
}

function Measured({ portrait }: { portrait: Portrait }) {
  if (portrait.measures.length === 0) return null;
  return (
    <section aria-label="Measured">
      <h3 className="border-b border-rule-2 font-bold">Measured</h3>
      <table className="w-full text-[15px]">
        <tbody>
          {portrait.measures.map((one) => (
            <tr key={one.name} className={one.light ? "text-ink-3" : ""}>
              <td>{one.name}</td>
              <td className="text-right font-bold">{one.median}</td>
              <td className="text-right text-[14px]">
                {one.low}–{one.high}
              </td>
              <td className="text-right text-[14px] text-pick">{one.beside ?? ""}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <p className="text-[13px] text-ink-2">Median, and the middle half.</p>
    </section>
  );
}
