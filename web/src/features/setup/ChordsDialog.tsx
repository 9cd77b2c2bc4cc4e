import { useState } from "react";
import { api, take } from "@/api/client";
import { useCursor } from "@/score/cursor";
import { useDocument } from "@/score/document";
import { useSaving } from "@/score/saving";
import { request } from "@/score/sending";
import { Button, Dialog, Field } from "@/ui/parts";
import { drawn } from "@/ui/signs";
import { type Found, Hear } from "./Hear";

/** What the chords of some bars sound like, likeliest first. Written ones change here; others go into the text. */
export function ChordsDialog({ onTake, onClose }: { onTake: (text: string) => void; onClose: () => void }) {
  const bench = useDocument((state) => state.bench);
  const trouble = useSaving((state) => state.trouble);
  const selection = useCursor((state) => state.selection);
  const bars = bench?.strip.bars ?? [];
  const at = (tick: number) => bars.find((bar) => tick >= bar.tick && tick < bar.end)?.number;
  const first = selection === null ? (bench?.solo.settings.first_bar ?? 1) : (at(selection.from) ?? 1);
  const last = selection === null ? (bench?.solo.settings.last_bar ?? 12) : (at(selection.to - 1) ?? first);
  const [span, setSpan] = useState({ first: String(first), last: String(last) });
  const [withOffset, setWithOffset] = useState(true);
  const offset = useDocument((state) => state.bench?.ground.settings.offset_cents ?? 0);
  const [taken, setTaken] = useState<Readonly<Record<number, string>>>({});
  if (bench === null) return null;
  const take_ = async (bar: Bar, symbol: string) => {
    if (bar.chord_id === null) {
      setTaken({ ...taken, [bar.bar]: symbol });
      return;
    }
    const chord_id = bar.chord_id;
    const two = symbol.includes(" "); // they share the bar
    if (
      await request((solo_id) =>
        two
          ? take(
              api.PUT("/api/solos/{solo_id}/sheet/{bar}", {
                params: { path: { solo_id, bar: bar.bar } },
                body: { text: symbol, everywhere: false },
              }),
            )
          : take(
              api.PUT("/api/solos/{solo_id}/chords/{chord_id}", {
                params: { path: { solo_id, chord_id } },
                body: { symbol, bar: bar.bar },
              }),
            ),
      )
    )
      setTaken({ ...taken, [bar.bar]: symbol });
  };
  return (
    <Dialog
      open
      wide
      onOpenChange={(open) => {
        if (!open) onClose();
      }}
      title="What the chords sound like"
    >
      <div className="flex flex-col gap-4">
        <div className="flex flex-wrap items-end gap-3">
          <div className="w-24">
            <Field
              label="From bar"
              inputMode="numeric"
              value={span.first}
              onChange={(event) => setSpan({ ...span, first: event.target.value })}
            />
          </div>
          <div className="w-24">
            <Field
              label="to bar"
              inputMode="numeric"
              value={span.last}
              onChange={(event) => setSpan({ ...span, last: event.target.value })}
            />
          </div>
          {offset !== 0 && (
            <label className="flex items-center gap-2 pb-2">
              <input
                type="checkbox"
                className="size-4 accent-[var(--ink)]"
                checked={withOffset}
                onChange={(event) => setWithOffset(event.target.checked)}
              />
              the recording is off by {offset} cents: reckon with it
            </label>
          )}
          <p className="pb-2 text-[14px] text-ink-2">
            A guess from what rings in each bar. Your ear has the last word.
          </p>
        </div>
        <Hear
          label="Hear the chords"
          kind="chords"
          soloId={bench.solo_id}
          firstBar={Number(span.first) || 0}
          lastBar={Number(span.last) || 0}
          withOffset={withOffset}
        >
          {(found) => (
            <Offers
              found={found}
              taken={taken}
              onTake={(bar, symbol) => void take_(bar, symbol)}
              onText={(text) => {
                onTake(text);
                onClose();
              }}
            />
          )}
        </Hear>
        {trouble !== null && (
          <p role="alert" className="font-bold text-doubt">
            {trouble}
          </p>
        )}
        <div className="flex justify-end">
          <Button quiet onClick={onClose}>
            Done
          </Button>
        </div>
      </div>
    </Dialog>
  );
}

type Bar = Found["bars"][number];

function Offers({
  found,
  taken,
  onTake,
  onText,
}: {
  found: Found;
  taken: Readonly<Record<number, string>>;
  onTake: (bar: Bar, symbol: string) => void;
  onText: (text: string) => void;
}) {
  const { bars } = found;
  const unwritten = bars.filter((bar) => bar.chord_id === null && bar.bar > 0);
  return (
    <>
      <ul
        aria-label="Chords by bar"
        className="grid max-h-[44vh] w-full grid-cols-1 gap-x-6 gap-y-1 overflow-y-auto sm:grid-cols-2"
      >
        {bars.map((bar) => (
          <li key={bar.bar} className="flex items-center gap-2 border-b border-rule py-1">
            <span className="w-16 font-bold">bar {bar.bar}</span>
            <span className="w-20 truncate text-[14px] text-ink-2" title="written">
              {drawn(taken[bar.bar] ?? (bar.now || "not yet"))}
            </span>
            {bar.offers.map((offer) => (
              <button
                key={offer.symbol}
                type="button"
                aria-pressed={taken[bar.bar] === offer.symbol}
                aria-label={`bar ${bar.bar}: ${offer.symbol}`}
                onClick={() => onTake(bar, offer.symbol)}
                className="rounded-[4px] border border-rule-2 bg-sheet px-2 py-1 font-bold hover:border-ink aria-pressed:bg-ink aria-pressed:text-paper"
              >
                {drawn(offer.symbol)}{" "}
                <span className="text-[12px] font-normal">{Math.round(offer.belief * 100)} %</span>
              </button>
            ))}
            {bar.offers.length === 0 && <span className="text-[14px] text-ink-2">nothing rings</span>}
          </li>
        ))}
      </ul>
      {unwritten.length > 0 && (
        <Button
          strong
          onClick={() =>
            onText(`| ${unwritten.map((bar) => taken[bar.bar] ?? bar.offers[0]?.symbol ?? "%").join(" | ")} |`)
          }
        >
          Put bars {unwritten[0]?.bar}–{unwritten[unwritten.length - 1]?.bar} into the text
        </Button>
      )}
    </>
  );
}
