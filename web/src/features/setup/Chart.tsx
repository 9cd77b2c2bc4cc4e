import { ToggleGroup } from "radix-ui";
import { useEffect, useState } from "react";
import { useDocument } from "@/score/document";
import { Button } from "@/ui/parts";
import { BarFacts } from "./BarFacts";
import { ChartText } from "./ChartText";
import { type Found, Hear } from "./Hear";
import { Sheet } from "./Sheet";

const VIEWS = ["sheet", "text"] as const;
type View = (typeof VIEWS)[number];

/** The chart, as a sheet or as the text that it is read from; what was heard is offered on the sheet. */
export function Chart() {
  const [view, setView] = useState<View>("sheet");
  const [found, setFound] = useState<Found | null>(null);
  return (
    <section aria-label="Chart" className="flex min-h-0 flex-col gap-1 max-sm:min-h-max">
      <div className="flex flex-wrap items-center gap-x-5 gap-y-1">
        <h2 className="font-naming text-[21px] font-semibold">Chart</h2>
        <ToggleGroup.Root
          type="single"
          aria-label="Chart shown as"
          value={view}
          onValueChange={(next) => {
            if (next !== "") setView(next as View);
          }}
          className="flex gap-4"
        >
          {VIEWS.map((name) => (
            <ToggleGroup.Item
              key={name}
              value={name}
              className="border-b-[3px] border-transparent font-bold text-ink-2 data-[state=on]:border-ink data-[state=on]:text-ink"
            >
              {name}
            </ToggleGroup.Item>
          ))}
        </ToggleGroup.Root>
        {view === "sheet" && <HearInPlace onFound={setFound} />}
      </div>
      {view === "sheet" ? (
        <Sheet found={found}>
          <BarFacts />
        </Sheet>
      ) : (
        <>
          <ChartText />
          <BarFacts />
        </>
      )}
    </section>
  );
}

function HearInPlace({ onFound }: { onFound: (found: Found | null) => void }) {
  const bench = useDocument((state) => state.bench);
  if (bench?.recording == null) return null;
  const { first_bar, last_bar } = bench.solo.settings;
  return (
    <div className="ml-auto">
      <Hear label="Hear chords" kind="chords" soloId={bench.solo_id} firstBar={first_bar} lastBar={last_bar} withOffset>
        {(found) => <Offered found={found} onFound={onFound} />}
      </Hear>
    </div>
  );
}

/** The offers stand on the sheet until they are put away. */
function Offered({ found, onFound }: { found: Found; onFound: (found: Found | null) => void }) {
  useEffect(() => onFound(found), [found, onFound]);
  return (
    <Button quiet size="small" onClick={() => onFound(null)}>
      Hide offers
    </Button>
  );
}
