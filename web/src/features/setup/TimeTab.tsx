import { useEffect, useState } from "react";
import { api, type Schemas, take } from "@/api/client";
import { useCursor } from "@/score/cursor";
import { useDocument } from "@/score/document";
import { placeBar, useShown } from "@/score/shown";
import { request } from "@/score/sending";
import { Button, Choose } from "@/ui/parts";
import { BeatsHeard, Hear } from "./Hear";
import { putBar, SettleNumber, settle as settleBasics } from "./settle";
import type { Player } from "@/score/playing";
import { TapDialog } from "./TapDialog";
import { TempoChart } from "./TempoChart";

/** The grid, its meter and its feel: tapped, heard or typed; every bar can be put where it belongs. */
export function TimeTab({ player, meters }: { player: Player; meters: readonly string[] }) {
  const bench = useDocument((state) => state.bench);
  const grid = useDocument((state) => state.grid);
  const cursor = useCursor((state) => state.cursor.tick);
  const placing = useShown((state) => state.placing);
  const [trouble, setTrouble] = useState<string | null>(null);
  const [keepSeconds, setKeepSeconds] = useState(false);
  const [tapping, setTapping] = useState(false);
  useEffect(() => () => placeBar(null), []);
  if (bench === null) return null;
  const { strip } = bench;
  const settle = (change: Partial<Schemas["Basics"]>) => settleBasics({ keep_seconds: keepSeconds, ...change });
  const bar = strip.bars.find((one) => cursor < one.end) ?? strip.bars.at(-1);
  const barAt = async (second: number) => {
    if (bar === undefined) return false;
    if (!Number.isFinite(second)) {
      setTrouble("Where a bar starts is a number of seconds.");
      return false;
    }
    setTrouble(null);
    return putBar(bar.number, second, keepSeconds);
  };
  const lay = (beats: readonly number[]) =>
    request((solo_id) =>
      take(
        api.PUT("/api/solos/{solo_id}/taps", {
          params: { path: { solo_id } },
          body: { taps: [...beats], tick: 0, keep_seconds: keepSeconds },
        }),
      ),
    );
  const starts = bar === undefined ? 0 : grid.second(bar.tick);
  const meter = strip.bars.find((one) => one.meter)?.meter ?? "4/4";
  const pulse = strip.bars[1]?.beats.length ?? 4;
  const pickup = strip.bars[0]?.number === 0 ? strip.bars[0].beats.length : 0;
  return (
    <div className="flex flex-col gap-3">
      <div role="group" aria-label="Grid" className="flex flex-wrap items-end gap-x-3 gap-y-2">
        <div className="flex max-w-full items-start gap-3">
          <Button className="shrink-0" onClick={() => setTapping(true)}>
            Tap along …
          </Button>
          {bench.recording !== null && (
            <Hear label="Hear the beat" kind="beats" soloId={bench.solo_id}>
              {(found, done) => (
                <BeatsHeard
                  found={found}
                  onLay={(beats) => {
                    void lay(beats).then((laid) => {
                      if (laid) done();
                    });
                  }}
                />
              )}
            </Hear>
          )}
        </div>
        {bar !== undefined && (
          <div className="flex items-end gap-1">
            <div className="w-28">
              <SettleNumber
                label={`Bar ${bar.label} at, s`}
                value={starts.toFixed(3)}
                onSettle={(value) => barAt(value)}
              />
            </div>
            <Button
              size="narrow"
              title="5 ms earlier"
              aria-label={`Bar ${bar.label} 5 ms earlier`}
              onClick={() => void barAt(starts - 0.005)}
            >
              −5
            </Button>
            <Button
              size="narrow"
              title="5 ms later"
              aria-label={`Bar ${bar.label} 5 ms later`}
              onClick={() => void barAt(starts + 0.005)}
            >
              +5
            </Button>
            <Button
              size="narrow"
              title={`bar ${bar.label} starts where it plays now`}
              onClick={() => {
                const now = player.position();
                if (now === null) setTrouble("Press Play first, then this when the bar begins.");
                else void barAt(now);
              }}
            >
              Here
            </Button>
            <Button
              size="narrow"
              aria-pressed={placing === bar.number}
              title={`click in the sound where bar ${bar.label} begins`}
              onClick={() => placeBar(placing === bar.number ? null : bar.number)}
            >
              {placing === bar.number ? "Click in the sound …" : "By a click"}
            </Button>
          </div>
        )}
        <div className="w-40">
          <Choose
            label="Notes keep"
            options={["their beats", "their seconds"]}
            value={keepSeconds ? "their seconds" : "their beats"}
            onChoose={(value) => setKeepSeconds(value === "their seconds")}
          />
        </div>
      </div>
      {trouble !== null && (
        <p role="alert" className="font-bold text-doubt">
          {trouble}
        </p>
      )}
      <div className="grid grid-cols-3 gap-x-3 gap-y-2 sm:grid-cols-5 xl:grid-cols-9">
        <SettleNumber
          label="Tempo"
          value={strip.tempo.split("= ")[1] ?? ""}
          onSettle={(value) => settle({ tempo_bpm: value })}
        />
        {bar?.number !== 1 && (
          <SettleNumber
            label="Bar 1 at, s"
            value={grid.second(0).toFixed(3)}
            onSettle={(value) => settle({ bar_one_s: value })}
          />
        )}
        <Choose
          label="Meter"
          options={[...new Set([...meters, meter])]}
          value={meter}
          onChoose={(value) => void settle({ meter: value })}
        />
        <Choose
          label="Pick-up"
          options={Array.from({ length: pulse + 1 }, (_, i) => (i === 0 ? "none" : `${i} beat${i > 1 ? "s" : ""}`))}
          value={pickup === 0 ? "none" : `${pickup} beat${pickup > 1 ? "s" : ""}`}
          onChoose={(value) => void settle({ pickup_pulses: Number.parseInt(value, 10) || 0 })}
        />
        <Choose
          label="Feel"
          options={["straight", "swing", "triplet"]}
          value={strip.feel.split(" ")[0] ?? "straight"}
          onChoose={(value) => void settle({ feel: value })}
        />
        <SettleNumber
          label="Swing ratio"
          value={strip.feel.split(" ")[1] ?? ""}
          onSettle={(value) => settle({ feel: "swing", swing_ratio: value })}
        />
        <SettleNumber
          label="Bars"
          value={String(bench.ground.settings.bars)}
          onSettle={(value) => settle({ bars: value })}
        />
        <SettleNumber
          label="Solo from bar"
          value={String(bench.solo.settings.first_bar)}
          onSettle={(value) => settle({ first_bar: value })}
        />
        <SettleNumber
          label="to bar"
          value={String(bench.solo.settings.last_bar)}
          onSettle={(value) => settle({ last_bar: value })}
        />
      </div>
      {bench.recording !== null && (
        <Hear
          label="Measure the swing"
          kind="swing"
          soloId={bench.solo_id}
          firstBar={bench.solo.settings.first_bar}
          lastBar={bench.solo.settings.last_bar}
        >
          {({ ratio, count }, done) =>
            ratio == null || count == null || count < 16 ? null : (
              <Button
                strong
                onClick={() => {
                  void settle(ratio < 1.12 ? { feel: "straight" } : { feel: "swing", swing_ratio: ratio });
                  done();
                }}
              >
                {ratio < 1.12 ? "It is straight" : `Use ${ratio}`}
              </Button>
            )
          }
        </Hear>
      )}
      <TempoChart player={player} />
      {tapping && <TapDialog player={player} keepSeconds={keepSeconds} onClose={() => setTapping(false)} />}
    </div>
  );
}
