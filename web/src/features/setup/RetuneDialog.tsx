import { useEffect, useState } from "react";
import { api, type Schemas, sentence, take } from "@/api/client";
import { latest } from "@/api/latest";
import { Button, Dialog } from "@/ui/parts";

export type Retune = { readonly tuning: string | null; readonly capo: number | null; readonly why?: string };

/** What other strings do to the hand and the notes, and the choice: keep the frets, or keep the pitches. */
export function RetuneDialog({
  soloId,
  wanted,
  written,
  onChoose,
  onClose,
}: {
  soloId: string;
  wanted: Retune;
  written: boolean;
  onChoose: (keepPitches: boolean) => void;
  onClose: () => void;
}) {
  const [card, setCard] = useState<Schemas["RetuningCard"] | null>(null);
  const [trouble, setTrouble] = useState<string | null>(null);
  useEffect(() => {
    const query = {
      ...(wanted.tuning === null ? {} : { tuning: wanted.tuning }),
      ...(wanted.capo === null ? {} : { capo: wanted.capo }),
    };
    return latest(
      take(api.GET("/api/solos/{solo_id}/retuning", { params: { path: { solo_id: soloId }, query } })),
      setCard,
      (fault) => setTrouble(sentence(fault)),
    );
  }, [soloId, wanted]);
  const turned = card?.strings.some((row) => row.semitones !== 0) ?? false;
  return (
    <Dialog
      open
      wide
      onOpenChange={(open) => {
        if (!open) onClose();
      }}
      title={wanted.capo === null ? "Retuning" : "Capo"}
    >
      {trouble !== null && (
        <p role="alert" className="font-bold text-doubt">
          {trouble}
        </p>
      )}
      {wanted.why !== undefined && (
        <p role="status" aria-label="Why" className="text-[16px]">
          {wanted.why}
        </p>
      )}
      {card !== null && (
        <div className="flex flex-col gap-4">
          {turned && (
            <table aria-label="Strings" className="w-full text-left text-[15px]">
              <thead className="text-[13px] text-ink-2">
                <tr>
                  <th scope="col">string</th>
                  <th scope="col">from</th>
                  <th scope="col">to</th>
                  <th scope="col">what to do</th>
                  <th scope="col" className="text-right">
                    pull before
                  </th>
                  <th scope="col" className="text-right">
                    pull after
                  </th>
                  <th scope="col" className="pl-4">
                    as before with
                  </th>
                </tr>
              </thead>
              <tbody>
                {card.strings.map((row) => (
                  <tr key={row.string} className={`border-t border-rule ${row.semitones === 0 ? "text-ink-2" : ""}`}>
                    <th scope="row">{row.string}</th>
                    <td>{row.before}</td>
                    <td className="font-bold">{row.after}</td>
                    <td>{row.way}</td>
                    <td className="text-right">{force(row.estimated, row.before_n, row.before_lbf)}</td>
                    <td className="text-right">{force(row.estimated, row.after_n, row.after_lbf)}</td>
                    <td className="pl-4">
                      {row.restoring_inch === null ? "" : `${row.restoring_inch.toFixed(4).replace(/^0/, "")} plain`}
                    </td>
                  </tr>
                ))}
              </tbody>
            </table>
          )}
          {turned && (
            <p className="text-[13px] text-ink-2">
              ≈ wound strings are an estimate, by their density. Gauges, scale length, density and the tuning that the
              set is strung for are settings of the solo.
            </p>
          )}
          {card.cautions.length > 0 && (
            <ul aria-label="Cautions" className="border-l-4 border-doubt pl-3 font-bold">
              {card.cautions.map((words) => (
                <li key={words}>{words}</li>
              ))}
            </ul>
          )}
          {written && (
            <div className="grid grid-cols-2 gap-4">
              <Choice
                title="Keep the frets"
                says="the pitches change"
                outcome={card.keep_frets}
                onChoose={() => onChoose(false)}
              />
              <Choice
                title="Keep the pitches"
                says="the frets are found again"
                outcome={card.keep_pitches}
                onChoose={() => onChoose(true)}
              />
            </div>
          )}
          <div className="flex justify-end gap-2">
            <Button quiet onClick={onClose}>
              Cancel
            </Button>
            {!written && (
              <Button strong onClick={() => onChoose(false)}>
                Change
              </Button>
            )}
          </div>
        </div>
      )}
    </Dialog>
  );
}

const force = (estimated: boolean, newtons: number, pounds: number): string =>
  `${estimated ? "≈ " : ""}${newtons.toFixed(0)} N, ${pounds.toFixed(1)} lbf`;

function Choice({
  title,
  says,
  outcome,
  onChoose,
}: {
  title: string;
  says: string;
  outcome: Schemas["Outcome"];
  onChoose: () => void;
}) {
  const { impossible } = outcome;
  return (
    <section aria-label={title} className="flex flex-col gap-2 rounded-[6px] border border-rule-2 p-3">
      <Button strong onClick={onChoose}>
        {title}
      </Button>
      <p>
        {says};{" "}
        {outcome.changed === 0
          ? "no note changes"
          : outcome.changed === 1
            ? "one note changes"
            : `${outcome.changed} notes change`}
        .
      </p>
      {impossible.length === 0 ? (
        <p className="text-ink-2">Every note can be played.</p>
      ) : (
        <>
          <p className="font-bold text-doubt">{impossible.length} cannot be played; they stay and are listed.</p>
          <ul className="max-h-28 overflow-y-auto text-[14px]">
            {impossible.map((one) => (
              <li key={one}>{one}</li>
            ))}
          </ul>
        </>
      )}
    </section>
  );
}
