/** What a worker is asked for: looked at until it ends, or left. */
import { api, type Schemas, take } from "./client";

type Estimate = Schemas["Estimate"];

export const isOpen = ({ state }: Estimate): boolean => state === "waiting" || state === "running";

/** Look at an estimate until it ends; `on` gets it at once and at every look. What comes back stops the looking. */
export const watch = (
  first: Estimate,
  everyMs: number,
  on: (now: Estimate) => void,
  onFault: (fault: unknown) => void,
): (() => void) => {
  let stopped = false;
  let timer: ReturnType<typeof setTimeout> | undefined;
  const see = (now: Estimate): void => {
    if (stopped) return;
    on(now);
    if (!isOpen(now)) return;
    timer = setTimeout(() => {
      take(api.GET("/api/estimates/{estimate_id}", { params: { path: { estimate_id: now.id } } }))
        .then(see)
        .catch((fault: unknown) => {
          if (!stopped) onFault(fault);
        });
    }, everyMs);
  };
  see(first);
  return () => {
    stopped = true;
    clearTimeout(timer);
  };
};

/** Nobody waits for it any more. */
export const leave = ({ id }: Estimate): void => {
  void api.DELETE("/api/estimates/{estimate_id}", { params: { path: { estimate_id: id } } });
};
