/** Where someone stands on a stair after a pass; held to the core's `passed` by a table of cases (stand_cases.gen.json). */
export type Stand = { readonly step: number; readonly clean: number; readonly missed: number };
const MISSES_DOWN = 2;
export const START: Stand = { step: 0, clean: 0, missed: 0 };

/** Up after as many clean passes as a step asks, one step down after two misses running. */
export const passed = (stand: Stand, steps: number, passes: number, clean: boolean): Stand => {
  const at = (step: number): Stand => ({ step, clean: 0, missed: 0 });
  if (clean) {
    const done = stand.clean + 1;
    return done >= passes && stand.step < steps - 1
      ? at(stand.step + 1)
      : { step: stand.step, clean: Math.min(done, passes), missed: 0 };
  }
  const missed = stand.missed + 1;
  if (missed >= MISSES_DOWN) return at(Math.max(0, stand.step - 1));
  return { step: stand.step, clean: stand.clean >= passes ? 0 : stand.clean, missed };
};
