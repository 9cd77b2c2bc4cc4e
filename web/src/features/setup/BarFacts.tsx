import { api, type Schemas, take } from "@/api/client";
import { useBarHere } from "@/score/cursor";
import { request } from "@/score/sending";
import { Settle } from "./settle";

const mark = (bar: Schemas["BarView"] | undefined, body: Partial<Schemas["MarkRequest"]>): Promise<boolean> =>
  bar === undefined
    ? Promise.resolve(false)
    : request((solo_id) =>
        take(
          api.PUT("/api/solos/{solo_id}/bars/{bar}/facts", {
            params: { path: { solo_id, bar: bar.number } },
            body: { key: null, blues: null, ...body },
          }),
        ),
      );

/** The key from the bar at the cursor on, and whether its section is blues. */
export function BarFacts() {
  const bar = useBarHere();
  return (
    <div className="flex flex-wrap items-center gap-x-5 gap-y-1">
      <Settle
        inline
        label={bar?.form ? `Key from bar ${bar.label} on` : "Key"}
        value={bar?.key ?? ""}
        onSettle={(key) => mark(bar, { key })}
        placeholder="E minor"
      />
      <label className="flex items-center gap-2 font-bold" title="over its dominants b5 is meant, not ♯11">
        <input
          type="checkbox"
          className="size-4 accent-[var(--ink)]"
          checked={bar?.blues ?? false}
          disabled={!bar?.form}
          onChange={(event) => void mark(bar, { blues: event.target.checked })}
        />
        section is blues
      </label>
    </div>
  );
}
