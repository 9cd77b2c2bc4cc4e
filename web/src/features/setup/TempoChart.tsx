import { useEffect, useState } from "react";
import { api, type Schemas, sentence, take } from "@/api/client";
import { latest } from "@/api/latest";
import { setCursor, useCursor } from "@/score/cursor";
import { useDocument } from "@/score/document";
import type { Player } from "@/score/playing";
import { useWidth } from "@/ui/useWidth";

type Tempo = Schemas["TempoView"];
const HEIGHT = 196;
const TOP = 26;
const BOTTOM = 112; // of the tempo
const BEATS = 152; // the line on which beats and onsets agree
const MS = 0.42; // pixels a millisecond
const MOST_MS = 60;
const LEAST_SPAN = 0.06; // of the tempo, so that a steady one lies flat
const NAMES = 54;

/** The tempo over the bars: as the grid has it, as it was heard, where anchors lie, how far beats are from onsets. */
export function TempoChart({ player }: { player: Player }) {
  const soloId = useDocument((state) => state.bench?.solo_id ?? "");
  const versions = useDocument((state) => state.versions);
  const [tempo, setTempo] = useState<Tempo | null>(null);
  const [trouble, setTrouble] = useState("");
  useEffect(
    () =>
      latest(
        take(api.GET("/api/solos/{solo_id}/tempo", { params: { path: { solo_id: soloId } } })),
        (found) => {
          setTempo(found);
          setTrouble("");
        },
        (fault) => setTrouble(sentence(fault)),
      ),
    [soloId, versions],
  );
  if (tempo === null) return <p className="text-ink-2">{trouble || "Measuring the tempo …"}</p>;
  return <Drawn tempo={tempo} player={player} />;
}

function Drawn({ tempo, player }: { tempo: Tempo; player: Player }) {
  const cursor = useCursor((state) => state.cursor.tick);
  const [box, width] = useWidth(900);
  const first = tempo.bars[0]?.tick ?? 0;
  const last = tempo.bars.at(-1)?.end ?? first + 1;
  const x = (tick: number): number => NAMES + ((width - NAMES) * (tick - first)) / (last - first);
  const all = tempo.bars.map(({ bpm }) => bpm);
  const middle = (Math.min(...all) + Math.max(...all)) / 2;
  const half = Math.max((Math.max(...all) - Math.min(...all)) / 2, (LEAST_SPAN / 2) * middle) * 1.25;
  const y = (bpm: number): number =>
    Math.min(BOTTOM, Math.max(TOP, TOP + ((BOTTOM - TOP) * (middle + half - bpm)) / (2 * half)));
  const recorded = tempo.beats !== "";
  const every = Math.max(1, Math.ceil((34 * tempo.bars.length) / Math.max(1, width - NAMES)));
  const line = tempo.bars.map(({ tick, end, bpm }) => `L${x(tick)} ${y(bpm)}H${x(end)}`).join("");
  return (
    <section aria-label="The tempo over the bars" className="min-w-0 border-t border-rule pt-2">
      <p className="text-[15px]">
        <b>{tempo.says}</b> {tempo.beats}
      </p>
      <span ref={box} className="relative mt-1 block">
        <svg width={width} height={HEIGHT} aria-hidden className="block">
          <g fontSize={13} className="fill-ink-2">
            <text x={0} y={TOP + 4}>
              {(middle + half).toFixed(0)}
            </text>
            <text x={0} y={BOTTOM + 4}>
              {(middle - half).toFixed(0)}
            </text>
            {recorded && (
              <>
                <text x={0} y={BEATS - 14}>
                  late
                </text>
                <text x={0} y={BEATS + 22}>
                  early
                </text>
              </>
            )}
          </g>
          {tempo.heard.map(({ tick, bpm }, i) =>
            tick >= first && tick < last ? (
              <circle key={i} cx={x(tick)} cy={y(bpm)} r={2} className="fill-heard" />
            ) : null,
          )}
          <path d={`M${x(first)} ${y(all[0] ?? middle)}${line}`} fill="none" className="stroke-ink" strokeWidth={2.4} />
          {recorded && <line x1={NAMES} x2={width} y1={BEATS} y2={BEATS} className="stroke-rule-2" />}
          {tempo.bars.map((bar, i) => {
            const off = bar.off_ms ?? null;
            const from = x(bar.tick);
            const centre = (from + x(bar.end)) / 2;
            const far = off !== null && Math.abs(off) >= tempo.far_ms;
            return (
              <g key={bar.bar}>
                {i % every === 0 && x(bar.end) - from > 22 && (
                  <text x={from + 6} y={12} fontSize={13} className="fill-ink-2">
                    {bar.bar}
                  </text>
                )}
                {bar.anchored && <path d={`M${from} ${TOP - 6}l5 -7h-10z`} className="fill-pick" />}
                {off !== null && (
                  <line
                    x1={centre}
                    x2={centre}
                    y1={BEATS}
                    y2={BEATS - MS * Math.max(-MOST_MS, Math.min(MOST_MS, off)) - (off < 0 ? -1 : 1)}
                    strokeWidth={far ? 5 : 3}
                    className={far ? "stroke-doubt" : "stroke-ink-3"}
                  />
                )}
              </g>
            );
          })}
        </svg>
        <span className="absolute inset-0">
          {tempo.bars.map((bar) => (
            <button
              key={bar.bar}
              type="button"
              aria-current={bar.tick <= cursor && cursor < bar.end ? "true" : undefined}
              aria-label={`Hear ${bar.name}: ${bar.bpm.toFixed(1)} a minute${offWords(bar.off_ms ?? null)}`}
              title={`${bar.name}: ${bar.bpm.toFixed(1)} a minute${offWords(bar.off_ms ?? null)}`}
              className={`absolute inset-y-0 hover:bg-pick/10 ${bar.tick <= cursor && cursor < bar.end ? "bg-pick/10" : ""}`}
              style={{ left: x(bar.tick), width: Math.max(4, x(bar.end) - x(bar.tick)) }}
              onClick={() => {
                setCursor({ tick: bar.tick });
                void player.loopOver({ from: bar.tick, to: bar.end }, true);
              }}
            />
          ))}
        </span>
      </span>
      <p className="text-[13px] text-ink-2">
        The line is the grid’s tempo, a blue mark an anchor
        {tempo.heard.length > 0 && ", dots the beats that were heard"}.{" "}
        {recorded && "Below: how far the onsets lie from the beats. "}Click a bar to hear it.
      </p>
    </section>
  );
}

const offWords = (off: number | null): string =>
  off === null ? "" : `, struck ${Math.abs(off).toFixed(0)} ms ${off < 0 ? "early" : "late"}`;
