import { useEffect, useState } from "react";
import { api, type Schemas, sentence, take } from "@/api/client";
import { useLook } from "@/score/look";
import { Button, Tick } from "@/ui/parts";
import { PaperPage, type Sheet } from "./PaperPage";
import { StaffOver } from "./StaffOver";
import { Select } from "@/ui/Select";

/** What is printed: a solo, or a lick. */
export type Printed = { readonly solo: string } | { readonly lick: Schemas["LickMeant"] };
export type Wanted = {
  readonly paper: Schemas["Paper"];
  readonly large: boolean;
  readonly staff: boolean;
  readonly plan: boolean;
};
export const USUAL: Wanted = { paper: "a4", large: false, staff: false, plan: true };

const lickQuery = (lick: Schemas["LickMeant"]): Record<string, string> =>
  Object.fromEntries(
    Object.entries(lick).filter((entry): entry is [string, string] => typeof entry[1] === "string" && entry[1] !== ""),
  );

/** The address of the PDF. */
export const pdfAddress = (printed: Printed, wanted: Wanted): string => {
  const query = new URLSearchParams({
    paper: wanted.paper,
    large: String(wanted.large),
    plan: String(wanted.plan),
    hand: useLook.getState().handSize,
    ...useLook.getState().reader,
    ...("lick" in printed ? lickQuery(printed.lick) : {}),
  });
  return "lick" in printed
    ? `/api/licks/handout.pdf?${query.toString()}`
    : `/api/solos/${printed.solo}/handout.pdf?${query.toString()}`;
};

const NONE: ReadonlySet<number> = new Set();

const fetchSheet = async (printed: Printed, wanted: Wanted): Promise<Sheet> => {
  const { reader, handSize } = useLook.getState();
  const query = { ...reader, ...wanted, hand: handSize };
  const sheet =
    "lick" in printed
      ? await take(api.GET("/api/licks/handout", { params: { query: { ...query, ...lickQuery(printed.lick) } } }))
      : await take(api.GET("/api/solos/{solo_id}/handout", { params: { path: { solo_id: printed.solo }, query } }));
  return sheet;
};

type Props = { printed: Printed; wanted: Wanted; onWanted: (wanted: Wanted) => void };

/** The pages as they are printed, and what can be chosen of them. */
export function HandoutView({ printed, wanted, onWanted }: Props) {
  const [sheet, setSheet] = useState<Sheet | null>(null);
  const [trouble, setTrouble] = useState("");
  const key = JSON.stringify([printed, wanted]);
  const [staves, setStaves] = useState<ReadonlySet<number>>(NONE); // that are drawn
  const drawnAll = sheet !== null && sheet.staves.every((_, n) => staves.has(n));
  useEffect(() => {
    let here = true;
    fetchSheet(printed, wanted).then(
      (found) => {
        if (!here) return;
        setStaves(NONE);
        setSheet(found);
        setTrouble("");
      },
      (fault: unknown) => here && setTrouble(sentence(fault)),
    );
    return () => {
      here = false;
    };
  }, [key]); // eslint-disable-line react-hooks/exhaustive-deps -- what the key says
  const tick = (name: "large" | "staff" | "plan", label: string) => (
    <Tick label={label} on={wanted[name]} onTick={(on) => onWanted({ ...wanted, [name]: on })} />
  );
  return (
    <>
      <section
        aria-label="How it is printed"
        className="sticky top-0 z-10 flex flex-wrap items-center gap-x-6 gap-y-2 border-b border-rule bg-paper px-6 py-3 print:hidden"
      >
        <span className="flex items-center gap-2 font-bold">
          Paper
          <Select
            label="Paper"
            options={[
              { value: "a4", words: "A4" },
              { value: "letter", words: "Letter" },
            ]}
            value={wanted.paper}
            onChoose={(paper) => onWanted({ ...wanted, paper: paper as Wanted["paper"] })}
          />
        </span>
        {tick("large", "Large type")}
        {tick("staff", "Staff notation")}
        {"solo" in printed && tick("plan", "Plan")}
        <span className="ml-auto flex items-center gap-3">
          <Button strong onClick={() => window.print()} disabled={!drawnAll}>
            {sheet !== null && !drawnAll ? "Drawing the staves …" : "Print"}
          </Button>
          <a
            className="rounded-[5px] border border-rule-2 bg-sheet px-4 py-2 font-bold"
            href={pdfAddress(printed, wanted)}
          >
            PDF
          </a>
        </span>
      </section>
      {trouble !== "" && (
        <p role="alert" className="p-6 text-[17px] font-bold text-doubt">
          {trouble}
        </p>
      )}
      {sheet === null && trouble === "" && <p className="p-6 text-ink-2">Laying the pages …</p>}
      {sheet !== null && (
        <div className="handout mx-auto flex max-w-[860px] flex-col gap-5 p-6 print:block print:max-w-none print:p-0">
          <style>{`@page { size: ${sheet.paper === "a4" ? "A4" : "letter"}; margin: 0 }`}</style>
          {sheet.pages.map((_, i) => (
            <div key={i} className="relative border border-rule print:break-after-page print:border-0">
              <PaperPage sheet={sheet} at={i} />
              {sheet.staves.map(
                (place, n) =>
                  place.page === i && (
                    <StaffOver key={n} sheet={sheet} at={n} onDrawn={() => setStaves((now) => new Set([...now, n]))} />
                  ),
              )}
            </div>
          ))}
        </div>
      )}
    </>
  );
}
