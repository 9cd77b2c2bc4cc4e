/** The playhead moves by itself, the page turns when it comes near the edge, and the notes that sound are red. */
import { type Axis, toPx } from "@/score/axis";
import type { Placed } from "@/score/view";

const PAGE = 0.85; // of the width, where the page turns
const LEFT = 0.08; // and where the playhead stands then

type Shows = {
  readonly box: HTMLElement;
  readonly line: HTMLElement;
  readonly axis: Axis;
  readonly margin: number;
  readonly notes: readonly Placed[];
  /** Seconds of the playhead now, or null. */
  readonly position: () => number | null;
};

/** Paint with every frame, while it plays, until the function that is returned is called. */
export const paintPlayhead = ({ box, line, axis, margin, notes, position }: Shows): (() => void) => {
  let frame = 0;
  let sounding: Element[] = [];
  const mark = (now: Element[]) => {
    for (const element of sounding) if (!now.includes(element)) element.removeAttribute("data-sounding");
    for (const element of now) element.setAttribute("data-sounding", "true");
    sounding = now;
  };
  const paint = () => {
    const second = position();
    line.style.visibility = second === null ? "hidden" : "visible";
    if (second === null) mark([]);
    else {
      const heard = notes.filter((note) => note.startS <= second && second < note.endS);
      mark(heard.flatMap(({ id }) => [...document.querySelectorAll(`[data-note="${id}"]`)]));
      const x = toPx(axis, second);
      line.style.transform = `translateX(${x + margin}px)`;
      const width = box.clientWidth - margin;
      if (x > box.scrollLeft + width * PAGE || x < box.scrollLeft) box.scrollLeft = Math.max(0, x - width * LEFT);
    }
    frame = requestAnimationFrame(paint);
  };
  frame = requestAnimationFrame(paint);
  return () => {
    cancelAnimationFrame(frame);
    line.style.visibility = "hidden";
    mark([]);
  };
};
