import { practice, usePractice } from "./practice";

/** The stair of the line, as large as there is room; a step is chosen by pressing it. */
export function PracticeStair() {
  const steps = usePractice((state) => state.view?.line.steps);
  const at = usePractice((state) => state.stand.step);
  const free = usePractice((state) => state.free);
  const playing = usePractice((state) => state.playing);
  if (steps === undefined) return null;
  const highest = Math.max(...steps.map(({ speed }) => speed));
  return (
    <div role="group" aria-label="Stair" className="mb-1 flex items-end gap-[6px] max-sm:gap-[4px]">
      {steps.map((step, i) => {
        const here = free === null && i === at;
        return (
          <button
            key={step.speed}
            type="button"
            aria-pressed={here}
            aria-label={`${step.percent} %, ${step.bpm} a minute`}
            onClick={() => practice.goTo(i)}
            className="flex min-h-[52px] min-w-0 flex-1 flex-col justify-end"
          >
            <span
              className={`block w-full ${here ? (playing ? "bg-sound" : "bg-ink") : i < at ? "bg-ink-3" : "bg-tint"}`}
              style={{ height: 4 + (48 * step.speed * step.speed) / highest / highest }}
            />
            <span
              className={`whitespace-nowrap text-center text-[17px] max-sm:text-[14px] ${here ? "font-bold" : "text-ink-2"}`}
            >
              {step.percent}
            </span>
          </button>
        );
      })}
    </div>
  );
}
