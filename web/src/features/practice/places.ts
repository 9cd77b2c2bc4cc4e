/** From seconds of the recording to ticks, by the places that the server gives. Pure geometry. */
export type Place = { readonly tick: number; readonly second: number };

/** Where a second stands among the places, in ticks. */
export const tickAt = (places: readonly Place[], second: number): number => {
  const after = places.findIndex((one) => one.second > second);
  const [a, b] =
    after <= 0
      ? [places[after === 0 ? 0 : places.length - 2], places[after === 0 ? 1 : places.length - 1]]
      : [places[after - 1], places[after]];
  if (a === undefined || b === undefined) return places[0]?.tick ?? 0;
  return a.tick + ((second - a.second) / (b.second - a.second)) * (b.tick - a.tick);
};
