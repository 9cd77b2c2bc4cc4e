import { type KeyboardEvent, useEffect, useRef, useState } from "react";
import { LickFigure } from "@/score/LickFigure";
import { Button, Dialog, Key } from "@/ui/parts";
import { drawn } from "@/ui/signs";
import {
  addToQuote,
  asked,
  type Lick,
  choose,
  importLick,
  inHand,
  meant,
  PAGE,
  putBack,
  search,
  setBook,
  useBook,
  saveTable,
} from "./book";
import { hearLick, stop, useHearing } from "@/score/hearing";
import { LickPanel } from "./LickPanel";
import { NarrowingDialog, NarrowingRow } from "./Narrowing";
import { NeckInput } from "./NeckInput";
import { PlayButton } from "@/score/PlayButton";
import { QuoteDialog } from "./QuoteDialog";
import { useFile } from "@/ui/useFile";
import { useWidth } from "@/ui/useWidth";

const KEYS: readonly (readonly [string, string])[] = [
  ["/", "search"],
  ["↑ ↓", "the result before, the next"],
  ["Space", "hear it, or stop"],
  ["V", "hear it by the program’s guitar"],
  ["Enter", "open it at its place"],
  ["K", "keep it, name it"],
  ["M", "more like this"],
  ["Q", "add it to the quote"],
  ["N", "narrow the search"],
  ["Ctrl Z", "put back the lick that was removed"],
  ["?", "these keys"],
];

type Props = { onOpen: (lick: Lick) => void; onOpenSolo: (solo: string) => void };

/** Searched as one types; results are drawn, heard and opened; the one in hand goes anywhere. */
export function LickBook({ onOpen, onOpenSolo }: Props) {
  const text = useBook((state) => state.text);
  const found = useBook((state) => state.found);
  const at = useBook((state) => state.at);
  const near = useBook((state) => state.near);
  const trouble = useBook((state) => state.trouble);
  const heard = useHearing((state) => state.trouble);
  const removed = useBook((state) => state.removed);
  const twice = useBook((state) => state.twice);
  const narrowed = useBook((state) => state.narrowed);
  const quoted = useBook((state) => state.quote.length);
  const [open, setOpen] = useState<"narrow" | "neck" | "quote" | "keys" | null>(null);
  const [naming, setNaming] = useState(false);
  const field = useRef<HTMLInputElement>(null);
  const list = useRef<HTMLUListElement>(null);
  useEffect(() => {
    void search();
    return stop;
  }, []);
  useEffect(() => {
    list.current?.querySelector(`[data-at="${at}"]`)?.scrollIntoView({ block: "nearest" });
  }, [at, found]);

  const type = (words: string) => {
    setBook({ text: words, near: null });
    void search();
  };
  const moreLike = (lick: Lick) => {
    setBook({ near: lick, text: "" });
    void search();
  };
  const step = (by: 1 | -1) => void choose(Math.min((found?.licks.length ?? 1) - 1, Math.max(0, at + by)));
  const ACTS: Readonly<Record<string, (lick: Lick) => void>> = {
    " ": (lick) =>
      hearLick(`own ${lick.span}`, { which: meant(lick), there: { direction: "nearest" }, recorded: lick.has_sound }),
    v: (lick) => hearLick(`voice ${lick.span}`, { which: meant(lick), there: { direction: "nearest" } }),
    Enter: (lick) => lick.solo !== null && onOpen(lick),
    k: () => setNaming(true),
    m: moreLike,
    q: addToQuote,
  };
  const onKey = (event: KeyboardEvent) => {
    if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === "z" && removed !== null) {
      event.preventDefault();
      void putBack();
      return;
    }
    if (event.ctrlKey || event.metaKey || event.altKey) return;
    const { key } = event;
    const lick = inHand();
    const general: Readonly<Record<string, () => void>> = {
      ArrowDown: () => step(1),
      ArrowUp: () => step(-1),
      "/": () => field.current?.focus(),
      n: () => setOpen("narrow"),
      "?": () => setOpen("keys"),
    };
    const act =
      general[key] ?? (lick === null ? undefined : ACTS[key] === undefined ? undefined : () => ACTS[key]?.(lick));
    if (act === undefined) return;
    event.preventDefault();
    act();
  };

  return (
    <div className="grid min-h-0 flex-1 grid-cols-[minmax(0,1fr)_392px] max-lg:grid-cols-1">
      <main className="flex min-h-0 flex-col">
        <search className="px-7 pt-5 max-sm:px-4">
          <div className="flex flex-wrap items-end gap-3">
            <label className="min-w-[16rem] flex-1 border-b-[3px] border-ink">
              <span className="sr-only">Search by degrees or steps</span>
              <input
                ref={field}
                value={text}
                autoFocus
                spellCheck={false}
                autoComplete="off"
                placeholder="degrees: 3 b3 1 . 6   steps: +3 -1"
                className="w-full bg-transparent pb-1 text-[26px] font-bold leading-9 tracking-wide placeholder:text-[18px] placeholder:font-normal placeholder:text-ink-3 focus:outline-none"
                onChange={(event) => type(event.target.value)}
                onKeyDown={(event) => {
                  if (event.key !== "ArrowDown") return;
                  event.preventDefault();
                  list.current?.focus();
                }}
              />
            </label>
            <Button size="narrow" onClick={() => setOpen("neck")}>
              Play it on the neck
            </Button>
            <Button
              size="narrow"
              disabled={found === null || found.licks.length === 0}
              onClick={() => {
                const lick = inHand();
                if (lick !== null) moreLike(lick);
              }}
            >
              More like this
            </Button>
          </div>
          <div className="mt-2">
            <NarrowingRow onOpen={() => setOpen("narrow")} />
          </div>
          {removed !== null && (
            <p
              role="status"
              aria-label="Removed"
              className="mt-2 flex items-baseline gap-3 border-l-4 border-rule-2 px-3"
            >
              {removed.name === "" ? "The lick" : `“${removed.name}”`} was removed. It is kept for 30 days, with all
              that was removed, on the shelf.
              <Button size="small" onClick={() => void putBack()}>
                Put back
              </Button>
            </p>
          )}
          {(trouble ?? heard) !== null && (
            <p role="alert" className="mt-2 border-l-4 border-doubt bg-sheet px-3 py-1 font-bold">
              {trouble ?? heard}
            </p>
          )}
        </search>
        <ul
          ref={list}
          role="grid"
          data-home
          aria-label="Results"
          aria-activedescendant={found !== null && found.licks.length > 0 ? `lick-${at}` : undefined}
          tabIndex={0}
          onKeyDown={onKey}
          className={
            found?.count === 0
              ? "sr-only"
              : "mt-2 min-h-0 flex-1 overflow-y-auto px-5 pb-8 outline-offset-[-2px] max-sm:px-2"
          }
        >
          {found?.licks.map((lick, i) => (
            <Result key={lick.span} lick={lick} at={i} chosen={i === at} onOpen={onOpen} near={near !== null} />
          ))}
          {found !== null && near === null && found.licks.length < found.count && found.licks.length >= PAGE && (
            <li role="row" className="py-3 text-center">
              <span role="gridcell">
                <Button onClick={() => void search(true)}>Show more</Button>
              </span>
            </li>
          )}
        </ul>
        {found?.count === 0 && (
          <Nothing asked={text !== "" || Object.keys(asked(narrowed)).length > 0 || near !== null} />
        )}
        <footer className="flex flex-wrap items-center gap-x-4 gap-y-1 border-t border-rule px-7 py-2 text-[14px] text-ink-2 max-sm:px-4">
          <button type="button" onClick={() => setOpen("keys")}>
            <Key>?</Key> keys
          </button>
          <ImportLick />
          {near === null && found !== null && found.count > 0 && (
            <button type="button" className="underline underline-offset-4" onClick={saveTable}>
              Export as a table (CSV)
            </button>
          )}
          <span className="ml-auto" />
          <Button size="small" disabled={quoted === 0} onClick={() => setOpen("quote")}>
            Quote {quoted === 0 ? "licks" : quoted === 1 ? "1 lick" : `${quoted} licks`} …
          </Button>
        </footer>
      </main>
      <LickPanel naming={naming} onNaming={setNaming} onOpen={onOpen} onQuote={() => setOpen("quote")} />
      {open === "narrow" && <NarrowingDialog onClose={() => setOpen(null)} />}
      {open === "neck" && <NeckInput onClose={() => setOpen(null)} />}
      {open === "quote" && <QuoteDialog onClose={() => setOpen(null)} onSaved={onOpenSolo} />}
      {twice !== null && (
        <Dialog open onOpenChange={() => setBook({ twice: null })} title="Imported before">
          <p>{twice.says}</p>
          <div className="mt-4 flex justify-end gap-2">
            <Button quiet onClick={() => setBook({ twice: null })}>
              Cancel
            </Button>
            <Button strong onClick={() => void importLick(twice.file, true)}>
              Import it once more
            </Button>
          </div>
        </Dialog>
      )}
      {open === "keys" && (
        <Dialog open onOpenChange={() => setOpen(null)} title="Keys of the lick book">
          <p className="mb-3 text-ink-2">While the results have the focus: press ↓ in the search, or click one.</p>
          <dl className="grid grid-cols-[max-content_1fr] gap-x-4 gap-y-1">
            {KEYS.map(([key, does]) => (
              <div key={key} className="contents">
                <dt>
                  <Key>{key}</Key>
                </dt>
                <dd>{does}</dd>
              </div>
            ))}
          </dl>
        </Dialog>
      )}
    </div>
  );
}

function Result({
  lick,
  at,
  chosen,
  near,
  onOpen,
}: {
  lick: Lick;
  at: number;
  chosen: boolean;
  near: boolean;
  onOpen: (lick: Lick) => void;
}) {
  const [box, width] = useWidth(520);
  return (
    <li
      id={`lick-${at}`}
      role="row"
      aria-selected={chosen}
      data-at={at}
      onClick={() => void choose(at)}
      onDoubleClick={() => lick.solo !== null && onOpen(lick)}
      className={`grid cursor-pointer grid-cols-[230px_minmax(0,1fr)_auto] items-center gap-4 border-b border-l-4 border-b-rule py-2 pl-3 pr-2 max-sm:grid-cols-[minmax(0,1fr)_auto] ${chosen ? "border-l-pick bg-sheet" : "border-l-transparent"}`}
    >
      <span role="gridcell" className="min-w-0 max-sm:col-span-1">
        <span className="block truncate font-naming text-[19px] font-semibold leading-6">
          {lick.name || lick.player || "Player not known"}
        </span>
        <span className="block truncate text-[15px]">
          {lick.name !== "" && lick.player !== "" ? `${lick.player} · ` : ""}
          {lick.tune}, {lick.place}
        </span>
        <span className="block truncate text-[13px] text-ink-2">{lick.how}</span>
        <span className="mt-1 block text-[14px] font-bold">
          {lick.says !== "" && (near || lick.says !== "exactly") ? drawn(lick.says) : lick.says}
          {lick.lick !== null && (
            <span className="font-normal text-ink-2">{lick.says === "" ? "kept" : " · kept"}</span>
          )}
          {lick.frozen !== "" && <span className="block text-doubt">frozen: {lick.frozen}</span>}
        </span>
      </span>
      <span ref={box} role="gridcell" className="min-w-0 overflow-hidden max-sm:order-last max-sm:col-span-2">
        <LickFigure drawing={lick.drawing} width={width} />
      </span>
      <span role="gridcell">
        <PlayButton
          inList
          sound={`own ${lick.span}`}
          label={`Hear ${lick.name || `${lick.tune}, ${lick.place}`}`}
          onPlay={() =>
            hearLick(`own ${lick.span}`, {
              which: meant(lick),
              there: { direction: "nearest" },
              recorded: lick.has_sound,
            })
          }
        />
      </span>
    </li>
  );
}

/** The book is empty, or nothing in it is like what was asked. */
function Nothing({ asked }: { asked: boolean }) {
  return (
    <section className="max-w-xl px-8 py-6">
      <h2 className="font-naming text-[24px] font-semibold">
        {asked ? "No lick or phrase matches." : "The lick book is empty."}
      </h2>
      <p className="mt-2 text-[17px] leading-relaxed text-ink-2">
        {asked
          ? "Write a full stop where none to three notes may stand, or ? for one; or clear what narrows the search."
          : "It fills by itself: every phrase of a solo that you write appears here a second later, found by its degrees. What is worth keeping you keep in the solo: mark some notes, then “Keep as a lick” in Phrases."}
      </p>
    </section>
  );
}

function ImportLick() {
  const [field, choose] = useFile("Lick document", ".json,application/json", (file) => void importLick(file));
  return (
    <>
      {field}
      <button type="button" className="underline underline-offset-4" onClick={choose}>
        Import a lick
      </button>
    </>
  );
}
