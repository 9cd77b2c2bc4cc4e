import { useEffect, useRef, useState } from "react";
import { api, type Schemas, take } from "@/api/client";
import { dismiss, hint as say, useSaving } from "@/score/saving";
import { request } from "@/score/sending";
import { Field } from "@/ui/parts";

export const NOTHING: Schemas["Basics"] = {
  tempo_bpm: null,
  bar_one_s: null,
  meter: null,
  key: null,
  feel: null,
  swing_ratio: null,
  swing_unit: null,
  bars: null,
  pickup_pulses: null,
  offset_cents: null,
  tuning: null,
  capo: null,
  last_fret: null,
  first_bar: null,
  last_bar: null,
  keep_seconds: false,
  keep_pitches: false,
};

/** Change what was settled; whether it was taken. */
export const settle = (change: Partial<Schemas["Basics"]>): Promise<boolean> =>
  request((solo_id) =>
    take(api.PUT("/api/solos/{solo_id}/basics", { params: { path: { solo_id } }, body: { ...NOTHING, ...change } })),
  );

/** Put a bar line on a second of the recording; later bars move along. */
export const putBar = (bar: number, second: number, keep_seconds: boolean): Promise<boolean> =>
  request((solo_id) =>
    take(
      api.PUT("/api/solos/{solo_id}/bars/{bar}", {
        params: { path: { solo_id, bar } },
        body: { second: Math.round(second * 1_000) / 1_000, keep_seconds },
      }),
    ),
  );

/** A field that settles its value when it is left or entered. What cannot be taken stays to be corrected, with the reason under it. */
export function Settle({
  label,
  value,
  hint,
  inline,
  placeholder,
  onSettle,
}: {
  label: string;
  value: string;
  hint?: string | undefined;
  inline?: boolean;
  placeholder?: string;
  onSettle: (value: string) => Promise<boolean>;
}) {
  const [typed, setTyped] = useState(value);
  const [fault, setFault] = useState<string | undefined>();
  const passedOver = useRef<string | null>(null); // it is being asked, or was given up: leaving does not ask it again
  const turn = useRef(0); // an answer to what was given up, or typed over since, says nothing
  useEffect(() => setTyped(value), [value]);
  const typeAnew = (text: string) => {
    turn.current += 1;
    passedOver.current = null;
    setTyped(text);
    setFault(undefined);
  };
  const leave = async () => {
    const text = typed.trim();
    if (text === value || text === "") setTyped(value);
    else if (text !== passedOver.current) {
      passedOver.current = text;
      const own = turn.current;
      const taken = await onSettle(text);
      if (own !== turn.current) {
        dismiss();
        return;
      }
      passedOver.current = null;
      if (taken) return;
      const { trouble } = useSaving.getState();
      if (trouble === null) setTyped(value);
      else {
        setFault(trouble);
        dismiss();
      }
    }
  };
  return (
    <Field
      label={label}
      hint={hint}
      fault={fault}
      inline={inline}
      placeholder={placeholder}
      value={typed}
      onFocus={dismiss}
      onChange={(event) => typeAnew(event.target.value)}
      onBlur={() => void leave()}
      onKeyDown={(event) => {
        if (event.key === "Enter") void leave();
        if (event.key === "Escape") {
          typeAnew(value);
          passedOver.current = typed.trim(); // the field is left with it before it is drawn anew
        }
      }}
    />
  );
}

/** A field for a number: anything else is answered in place and not sent. */
export function SettleNumber({
  label,
  value,
  hint,
  onSettle,
}: {
  label: string;
  value: string;
  hint?: string | undefined;
  onSettle: (value: number) => Promise<boolean>;
}) {
  return (
    <Settle
      label={label}
      value={value}
      hint={hint}
      onSettle={(typed) => {
        const number = Number(typed.replace(",", "."));
        if (Number.isFinite(number)) return onSettle(number);
        say(`“${typed}” is not a number.`);
        return Promise.resolve(false);
      }}
    />
  );
}
