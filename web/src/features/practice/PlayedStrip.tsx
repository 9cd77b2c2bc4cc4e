import { useEffect, useRef, useState } from "react";
import { LickFigure } from "@/score/LickFigure";
import { wideEnough, xOf } from "@/score/lickFigure";
import { drawn } from "@/ui/signs";
import { useNarrow } from "@/ui/useNarrow";
import { useWidth } from "@/ui/useWidth";
import { practice, type PracticeView, usePractice } from "./practice";
import { tickAt } from "./places";

const BARS = 4; // in view on a wide screen
const NARROW_BARS = 1.5;
const SCALE = 1.6;
const NARROW_SCALE = 1.4;
const LEAD_S = 0.02; // what begins within it sounds already

/** The line drawn large, with the playhead; what sounds is told above it. On a narrow screen it turns pages. */
export function PlayedStrip({ view }: { view: PracticeView }) {
  const head = useRef<HTMLDivElement>(null);
  const [frame, room] = useWidth<HTMLDivElement>(900);
  const narrow = useNarrow();
  const playing = usePractice((state) => state.playing);
  const [sounds, setSounds] = useState<PracticeView["notes"][number] | null>(null);
  const { drawing } = view;
  const bars = Math.max(1, drawing?.bars.length ?? 1);
  const scale = narrow ? NARROW_SCALE : SCALE;
  const most = narrow ? NARROW_BARS : BARS;
  const wanted = Math.max(room, (room * bars) / most);
  const width = drawing === null ? room : wideEnough(drawing, wanted / scale, true) * scale;

  useEffect(() => {
    if (!playing || drawing === null) {
      setSounds(null);
      if (head.current !== null) head.current.style.opacity = "0";
      return;
    }
    let next = 0;
    const draw = () => {
      next = requestAnimationFrame(draw);
      const second = practice.position();
      const line = head.current;
      const box = frame.current;
      if (line === null || box === null) return;
      line.style.opacity = second === null ? "0" : "1";
      if (second === null) return;
      const x = xOf(drawing, width / scale, tickAt(view.places, second)) * scale;
      line.style.transform = `translateX(${x}px)`;
      // It turns the page, it does not glide.
      if (x < box.scrollLeft || x > box.scrollLeft + box.clientWidth - 30) box.scrollLeft = Math.max(0, x - 40);
      let now: PracticeView["notes"][number] | null = null;
      for (const note of view.notes) if (note.second <= second + LEAD_S) now = note;
      setSounds((before) => (before?.note === now?.note ? before : now));
    };
    next = requestAnimationFrame(draw);
    return () => cancelAnimationFrame(next);
  }, [playing, drawing, view, width, scale, frame]);

  return (
    <section aria-label="Strip" className="relative mt-2 shrink-0 border-y border-rule bg-sheet low:mt-0">
      <p
        role="status"
        aria-live="off"
        aria-label="Sounding"
        className="pointer-events-none absolute bottom-1 left-6 z-10 text-[38px] font-bold leading-none text-sound max-sm:left-4 low:bottom-auto low:left-auto low:right-4 low:top-0"
      >
        {drawn(sounds?.says ?? "")}
      </p>
      <div ref={frame} tabIndex={0} role="group" aria-label="The notes" className="relative overflow-x-auto pb-3">
        {drawing === null ? (
          <p className="px-6 py-8 text-[18px] text-ink-2">Nothing with a pitch is written here.</p>
        ) : (
          <>
            <LickFigure drawing={drawing} width={width} scrolls scale={scale} />
            <div
              ref={head}
              aria-hidden
              className="pointer-events-none absolute bottom-0 left-0 top-0 w-[3px] bg-sound opacity-0"
            />
          </>
        )}
      </div>
    </section>
  );
}
