/** How hard and how fast, as they are drawn: bars for a level, a stair for speeds. */
import type { PlanLine } from "@/score/teaching";

const HEIGHTS = [8, 11, 14, 17, 20] as const;

/** Five bars, as many filled as it is hard. */
export function Level({ level, overruled }: { level: number; overruled: boolean }) {
  return (
    <span
      role="img"
      aria-label={`difficulty ${level} of 5${overruled ? ", as the teacher says" : ""}`}
      className="flex items-end gap-[4px] self-center"
    >
      {HEIGHTS.map((height, i) => (
        <span key={height} className={`w-[9px] ${i < level ? "bg-ink" : "bg-tint"}`} style={{ height }} />
      ))}
      {overruled && <span className="ml-1 text-[13px] font-bold leading-none text-pick">•</span>}
    </span>
  );
}

/** The stair of a line; the step that sounds stands out. */
export function SmallStair({ steps, speed, low }: { steps: PlanLine["steps"]; speed: number | null; low: boolean }) {
  const highest = Math.max(...steps.map((one) => one.speed));
  const first = steps[0];
  const last = steps[steps.length - 1];
  return (
    <span
      role="img"
      aria-label={`from ${first?.percent} to ${last?.percent} per cent in ${steps.length} steps`}
      className="flex items-end gap-[4px] max-sm:hidden"
    >
      {steps.map((one) => (
        <span
          key={one.speed}
          title={`${one.percent} %, ${one.bpm} a minute`}
          className={`min-w-[6px] flex-1 ${speed === one.speed ? "bg-sound" : speed !== null && one.speed < speed ? "bg-ink-3" : "bg-tint"}`}
          style={{ height: ((low ? 20 : 42) * one.speed * one.speed) / highest / highest }}
        />
      ))}
    </span>
  );
}
