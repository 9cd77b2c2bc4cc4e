import { LickFigure } from "@/score/LickFigure";
import { drawn } from "@/ui/signs";
import type { PracticeView } from "./practice";

/** What the teacher wrote, with the second way beside it. */
export function Remarks({ remarks }: { remarks: PracticeView["remarks"] }) {
  if (remarks.length === 0) return null;
  return (
    <section aria-label="Remarks" className="flex flex-col gap-2 px-6 py-1 max-sm:px-4">
      {remarks.map((one) => (
        <div key={one.id} className="grid grid-cols-[minmax(0,1fr)_auto] items-center gap-5 max-lg:grid-cols-1">
          <p className="text-[20px] leading-snug">
            <span className="text-[16px] text-ink-2">{one.place}: </span>
            {drawn(one.words)}
          </p>
          {one.second !== null && (
            <div role="group" aria-label="Second way" className="max-w-full overflow-x-auto">
              <LickFigure drawing={one.second} width={360} scrolls />
            </div>
          )}
        </div>
      ))}
    </section>
  );
}
