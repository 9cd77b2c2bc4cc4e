import { type Axis, toPx } from "@/score/axis";
import type { Lanes } from "@/score/layout";
import { heardPath, stringY } from "@/score/neck";
import { offersOf, useOffers, useOfferInHand } from "@/score/offers";

type Props = {
  readonly x: (tick: number) => number;
  readonly near: (left: number, right: number) => boolean;
  readonly axis: Axis;
  readonly lanes: Lanes;
};

/** What was heard, behind the ink: the pitch as a thin line over its string, to the scale of bends. */
export function HeardCurves({ near, axis, lanes }: Omit<Props, "x">) {
  const curves = useOffers((state) => state.found?.curves);
  return curves
    ?.filter((curve) => near(toPx(axis, curve.second), toPx(axis, curve.second + curve.step_s * curve.cents.length)))
    .map((curve) => (
      <path
        key={`${curve.string} ${curve.second}`}
        data-heard-pitch={curve.string}
        d={heardPath(curve, stringY(lanes.neck, curve.string), axis)}
        fill="none"
        className="stroke-heard"
        strokeWidth={1.6}
      />
    ));
}

/** Offers as wash at their places; the one that keys are for has a blue edge. */
export function OfferWash({ x, near, lanes }: Omit<Props, "axis">) {
  const offers = useOffers(offersOf);
  const inHand = useOfferInHand();
  return offers
    .filter(({ note }) => near(x(note.tick), x(note.tick + note.ticks)))
    .map((offer) => {
      const left = x(offer.note.tick);
      const y = stringY(lanes.neck, offer.note.string);
      const width = Math.max(22, x(offer.note.tick + offer.note.ticks) - left - 2);
      return (
        <g key={offer.note.id} data-offer={offer.band} opacity={offer.blocked === "" ? 1 : 0.5}>
          <rect
            x={left - 11}
            y={y - 12}
            width={width}
            height={24}
            rx={5}
            className={`${offer.band === "sure" ? "fill-tint" : offer.band === "likely" ? "fill-tint/60" : "fill-none"} ${offer === inHand ? "stroke-pick" : offer.band === "guess" ? "stroke-heard" : "stroke-none"}`}
            strokeWidth={offer === inHand ? 2.5 : 1.2}
            strokeDasharray={offer.band === "guess" && offer !== inHand ? "3 3" : undefined}
          />
          <text x={left} y={y + 7} fontSize={19} textAnchor="middle" className="fill-ink-2">
            {offer.shown.split(" ")[0]}
          </text>
          {offer.shown.includes(" ") && (
            <text x={left + 12} y={y - 2} fontSize={13} className="fill-ink-2">
              {offer.shown.split(" ")[1]}
            </text>
          )}
        </g>
      );
    });
}
