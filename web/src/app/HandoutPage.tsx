import { useEffect } from "react";
import { Link, useParams, useSearchParams } from "react-router";
import { HandoutView, type Printed, USUAL, type Wanted } from "@/features/handout/HandoutView";

/** A handout to be looked at and printed; the address holds what and how. */
export function HandoutPage() {
  const { soloId } = useParams();
  const [params, setParams] = useSearchParams();
  const flag = (name: "large" | "staff" | "plan") => (params.has(name) ? params.get(name) === "true" : USUAL[name]);
  const wanted: Wanted = {
    paper: params.get("paper") === "letter" ? "letter" : "a4",
    large: flag("large"),
    staff: flag("staff"),
    plan: flag("plan"),
  };
  const printed: Printed =
    soloId === undefined
      ? {
          lick: {
            lick: params.get("lick"),
            solo: params.get("solo"),
            first: params.get("first") ?? "",
            last: params.get("last") ?? "",
          },
        }
      : { solo: soloId };
  useEffect(() => {
    document.title = "Handout · Usagi";
  }, []);
  const choose = (next: Wanted) =>
    setParams(
      (now) => {
        const changed = new URLSearchParams(now);
        for (const [name, value] of Object.entries(next)) changed.set(name, String(value));
        return changed;
      },
      { replace: true },
    );
  return (
    <div className="h-full overflow-y-auto print:h-auto print:overflow-visible">
      <header className="flex items-baseline gap-5 px-6 pt-4 print:hidden">
        <h1 className="font-naming text-[25px] font-semibold">Handout</h1>
        <Link className="ml-auto font-bold" to={soloId === undefined ? "/licks" : `/solos/${soloId}/teach`}>
          {soloId === undefined ? "Back to the lick book" : "Back to the plan"}
        </Link>
      </header>
      <main>
        <HandoutView printed={printed} wanted={wanted} onWanted={choose} />
      </main>
    </div>
  );
}
