import { type KeyboardEvent, type ReactNode, useEffect, useRef, useState } from "react";
import { api, type Schemas, sentence, take } from "@/api/client";
import { latest } from "@/api/latest";
import { setCursor, useBarHere } from "@/score/cursor";
import { useDocument } from "@/score/document";
import { fitting } from "@/score/layout";
import { request } from "@/score/sending";
import { Key } from "@/ui/parts";
import { drawn } from "@/ui/signs";
import type { Found } from "./Hear";

type Bar = Schemas["SheetBar"];
type Heard = Schemas["ChordOffer"];
/** What is being typed, and into which bar. */
type Typed = { readonly bar: number; readonly text: string };

const A_ROW = 4;
const MOVES: Readonly<Record<string, number>> = { ArrowLeft: -1, ArrowRight: 1, ArrowUp: -A_ROW, ArrowDown: A_ROW };

/** Write a bar; what was wrong with the text, or nothing. */
const write = async (bar: number, text: string, everywhere: boolean): Promise<string | null> => {
  try {
    await request((solo_id) =>
      take(
        api.PUT("/api/solos/{solo_id}/sheet/{bar}", { params: { path: { solo_id, bar } }, body: { text, everywhere } }),
      ),
    );
    return null;
  } catch (fault) {
    return sentence(fault);
  }
};

/**
 * The chart as a lead sheet: four bars a row, typed into where they stand; `found` is offered under the bars that it differs from, and
 * `children` stand beside what can be done with the bar in hand.
 */
export function Sheet({ found, children }: { found: Found | null; children: ReactNode }) {
  const soloId = useDocument((state) => state.bench?.solo_id);
  const version = useDocument((state) => (state.bench === null ? 0 : state.versions[state.bench.ground_id]));
  const here = useBarHere();
  const [sheet, setSheet] = useState<Schemas["Sheet"] | null>(null);
  const [typed, setTyped] = useState<Typed | null>(null);
  const [trouble, setTrouble] = useState("");
  const grid = useRef<HTMLDivElement>(null);
  useEffect(() => {
    if (soloId === undefined) return undefined;
    return latest(
      take(api.GET("/api/solos/{solo_id}/sheet", { params: { path: { solo_id: soloId } } })),
      setSheet,
      (fault) => setTrouble(sentence(fault)),
    );
  }, [soloId, version]);
  const at = here === undefined ? 1 : Math.max(1, here.number);
  const cell = (bar: number) => grid.current?.querySelector<HTMLElement>(`[data-bar="${bar}"]`);
  // The bar that was typed into has its button again only when that is drawn.
  const left = useRef<number | null>(null);
  useEffect(() => {
    if (typed !== null || left.current === null) return;
    cell(left.current)?.focus();
    left.current = null;
  }, [typed]);
  useEffect(() => {
    grid.current?.querySelector(`[data-bar="${at}"]`)?.scrollIntoView({ block: "nearest" });
  }, [at, sheet]);
  if (sheet === null) return null;
  const bars = sheet.rows.flatMap((row) => row.bars);
  const go = (bar: number) => {
    const there = bars.find((one) => one.bar === bar);
    if (there === undefined) return;
    setCursor({ tick: there.tick });
    cell(bar)?.focus();
  };
  const begin = (bar: Bar, text: string) => {
    setCursor({ tick: bar.tick });
    setTrouble("");
    setTyped({ bar: bar.bar, text });
  };
  const leave = (bar: number) => {
    left.current = bar;
    setTyped(null);
    setTrouble("");
  };
  const save = async ({ bar, text }: Typed, everywhere: boolean) => {
    const wrong = await write(bar, text, everywhere);
    if (wrong === null) leave(bar);
    else setTrouble(wrong);
  };
  const press = (event: KeyboardEvent, bar: Bar) => {
    if (event.ctrlKey || event.metaKey || event.altKey) return;
    const by = MOVES[event.key];
    if (by !== undefined) go(bar.bar + by);
    else if (event.key === "Enter" || event.key === "F2") begin(bar, bar.text);
    else if (/^[A-GN%.<]$/i.test(event.key)) begin(bar, event.key.toUpperCase());
    else return;
    event.preventDefault();
  };
  const offers = new Map(found?.bars.flatMap((one) => (one.suggested === null ? [] : [[one.bar, one.suggested]])));
  const selected = bars.find((bar) => bar.bar === at);
  return (
    <div className="flex min-h-0 flex-1 flex-col gap-1 max-sm:min-h-max max-sm:flex-none">
      <div
        ref={grid}
        role="grid"
        aria-label="Chart as a sheet"
        className="min-h-0 flex-1 overflow-auto pr-2 max-sm:flex-none"
      >
        {sheet.rows.map((row) => (
          <div
            key={row.bars[0]?.bar}
            role="row"
            className="grid grid-cols-[104px_repeat(4,minmax(0,1fr))] items-stretch max-sm:min-w-[560px]"
          >
            <p
              role="rowheader"
              className="line-clamp-2 self-center pr-2 font-naming text-[15px] font-semibold leading-[18px]"
              title={row.section}
            >
              {row.section}
            </p>
            {row.bars.map((bar, i) => (
              <div
                key={bar.bar}
                role="gridcell"
                className={`relative h-[46px] ${i === 0 && row.section !== "" ? "border-l-[3px] border-ink" : "border-l border-rule-2"} ${i === row.bars.length - 1 ? "border-r border-r-rule-2" : ""}`}
              >
                {typed?.bar === bar.bar ? (
                  <input
                    autoFocus
                    aria-label={`Chords of bar ${bar.bar}`}
                    aria-invalid={trouble !== ""}
                    className="h-[32px] w-full rounded-[4px] border-2 border-pick bg-paper px-2 text-[18px] font-bold"
                    value={typed.text}
                    onChange={(event) => setTyped({ bar: bar.bar, text: event.target.value })}
                    onKeyDown={(event) => {
                      if (event.key === "Enter") void save(typed, event.shiftKey);
                      else if (event.key === "Escape") leave(bar.bar);
                      else return;
                      event.preventDefault();
                      event.stopPropagation();
                    }}
                  />
                ) : (
                  <BarCell bar={bar} here={bar.bar === at} onPress={press} onGo={go} onType={begin} />
                )}
                <BarNote
                  bar={bar}
                  wide={row.bars[i + 1] === undefined || (row.bars[i + 1]?.note === "" && !offers.has(bar.bar + 1))}
                  heard={offers.get(bar.bar)}
                  onTake={(symbol) => void save({ bar: bar.bar, text: symbol }, false)}
                />
              </div>
            ))}
          </div>
        ))}
      </div>
      {selected !== undefined && (
        <div className="flex flex-wrap items-center gap-x-5 gap-y-1 border-t border-rule pt-1 text-[14px]">
          {trouble !== "" ? (
            <p role="alert" className="font-bold text-doubt">
              {trouble}
            </p>
          ) : (
            <p className="text-ink-2">Type a chord to change it.</p>
          )}
          {typed === null ? (
            <button
              type="button"
              className="underline underline-offset-2"
              onClick={() => begin(selected, selected.text)}
            >
              Change bar {selected.bar}
            </button>
          ) : (
            <>
              <button type="button" onClick={() => void save(typed, false)}>
                <Key>enter</Key> {selected.times > 1 ? "here only" : "write it"}
              </button>
              {selected.times > 1 && (
                <button type="button" onClick={() => void save(typed, true)}>
                  <Key>shift</Key> <Key>enter</Key> all {selected.times} times
                </button>
              )}
              <button type="button" onClick={() => leave(typed.bar)}>
                <Key>esc</Key> Cancel
              </button>
            </>
          )}
          {typed === null && <div className="ml-auto">{children}</div>}
        </div>
      )}
    </div>
  );
}

const CELL = 134; // pixels that the chords of a bar have where the sheet is narrowest

/** The largest size at which a chord ends before the next. */
const sizeOf = (bar: Bar, i: number): number => {
  const [chord, next] = [bar.chords[i], bar.chords[i + 1]];
  if (chord === undefined) return 0;
  const letters = chord.shown.length + (chord.early ? 1 : 0);
  return fitting(letters, ((next?.at ?? 1) - chord.at) * CELL - 3, [19, 17, 15, 13, 11]) ?? 10;
};

function BarCell({
  bar,
  here,
  onPress,
  onGo,
  onType,
}: {
  bar: Bar;
  here: boolean;
  onPress: (event: KeyboardEvent, bar: Bar) => void;
  onGo: (bar: number) => void;
  onType: (bar: Bar, text: string) => void;
}) {
  const says = bar.chords.length > 0 ? bar.chords.map((chord) => chord.shown).join(", ") : "as before";
  return (
    <>
      <button
        type="button"
        data-bar={bar.bar}
        tabIndex={here ? 0 : -1}
        aria-current={here ? "true" : undefined}
        aria-label={[`Bar ${bar.bar}: ${says}`, bar.facts, bar.note].filter(Boolean).join("; ")}
        onKeyDown={(event) => onPress(event, bar)}
        onClick={() => onGo(bar.bar)}
        onDoubleClick={() => onType(bar, bar.text)}
        className={`absolute inset-x-0 top-0 h-[32px] ${here ? "bg-pick/10" : "hover:bg-paper"}`}
      />
      <div aria-hidden className="pointer-events-none absolute inset-x-0 top-0 h-[32px] overflow-hidden">
        <span className="absolute left-1 top-0 whitespace-nowrap text-[13px] leading-[14px] text-ink-2">
          {bar.bar}
          {bar.ending > 0 && <b className="ml-1 border-l-2 border-t-2 border-ink-3 pl-1">{bar.ending}.</b>}
          {bar.facts !== "" && <span className="ml-2">{drawn(bar.facts)}</span>}
        </span>
        {bar.chords.map((chord, i) => (
          <span
            key={chord.id}
            className="absolute bottom-0 whitespace-nowrap font-bold leading-5"
            style={{ left: `calc(12px + ${chord.at * 90}%)`, fontSize: sizeOf(bar, i) }}
          >
            {chord.early ? "‹" : ""}
            {drawn(chord.shown)}
          </span>
        ))}
        {bar.chords.length === 0 && bar.text !== "" && (
          <span className="absolute bottom-0 left-[14px] text-[17px] leading-5 text-ink-3">%</span>
        )}
      </div>
    </>
  );
}

/** Where it goes otherwise than the form, or what was heard there. */
function BarNote({
  bar,
  wide,
  heard,
  onTake,
}: {
  bar: Bar;
  wide: boolean; // nothing is said under the bar after it
  heard: Heard | undefined;
  onTake: (symbol: string) => void;
}) {
  const offered = heard !== undefined && heard.symbol !== bar.text ? heard : undefined;
  if (offered === undefined)
    return bar.note === "" ? null : (
      <p
        className={`absolute bottom-0 left-0 z-10 truncate bg-sheet pl-[14px] text-[13px] leading-[14px] text-doubt ${wide ? "" : "right-0"}`}
        title={bar.note}
      >
        {drawn(bar.note)}
      </p>
    );
  return (
    <>
      <p
        aria-hidden
        className="pointer-events-none absolute inset-x-0 bottom-0 truncate pl-[14px] text-[13px] leading-[14px] text-ink-2 underline underline-offset-2"
      >
        heard {drawn(offered.symbol)} {Math.round(offered.belief * 100)} %
      </p>
      <button
        type="button"
        className="absolute inset-x-0 bottom-0 h-[14px]"
        aria-label={`Take ${offered.symbol} in bar ${bar.bar}`}
        title="take it here"
        onClick={() => onTake(offered.symbol)}
      />
    </>
  );
}
