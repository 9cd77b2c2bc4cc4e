/** What of the strip is in view: its size, its zoom about the middle, and the cursor that is followed. */
import { type RefObject, useCallback, useEffect, useLayoutEffect, useRef, useState } from "react";
import { type Axis, toPx, toS, zoomStep } from "@/score/axis";
import { zoomTo } from "@/score/shown";

const EDGE = 24; // pixels between the edge and what is shown first

type Box = RefObject<HTMLElement | null>;

export const useSize = (scroller: Box): { readonly width: number; readonly height: number } => {
  const [size, setSize] = useState({ width: 1200, height: 516 });
  useLayoutEffect(() => {
    const box = scroller.current;
    if (box === null) return undefined;
    const measure = () => setSize({ width: box.clientWidth, height: box.clientHeight });
    measure(); // before the first picture, so that no lane jumps
    const watch = new ResizeObserver(measure);
    watch.observe(box);
    return () => watch.disconnect();
  }, [scroller]);
  return size;
};

/** Zoom by steps, with the wheel too; the place under the middle stays. */
export const useZoom = (scroller: Box, axis: Axis, margin: number): ((by: number) => void) => {
  const kept = useRef<number | null>(null); // second under the middle
  useLayoutEffect(() => {
    const box = scroller.current;
    if (box !== null && kept.current !== null)
      box.scrollLeft = toPx(axis, kept.current) - (box.clientWidth - margin) / 2;
    kept.current = null;
  }, [scroller, axis, margin]);
  const zoom = useCallback(
    (by: number) => {
      const box = scroller.current;
      if (box !== null) kept.current = toS(axis, box.scrollLeft + (box.clientWidth - margin) / 2);
      zoomTo(zoomStep(axis.pxPerS, by));
    },
    [scroller, axis, margin],
  );
  useEffect(() => {
    const box = scroller.current;
    if (box === null) return undefined;
    const wheel = (event: WheelEvent) => {
      if (!event.ctrlKey && !event.metaKey) return;
      event.preventDefault();
      zoom(event.deltaY < 0 ? 1 : -1);
    };
    box.addEventListener("wheel", wheel, { passive: false });
    return () => box.removeEventListener("wheel", wheel);
  }, [scroller, zoom]);
  return zoom;
};

/** A cursor that leaves the view is followed; `first`, where the solo begins, stands `lead` pixels from the left edge, whatever lies before it. */
export const useFollowed = (scroller: Box, x: number, first: number, margin: number, lead: number): void => {
  const opened = useRef(false);
  useLayoutEffect(() => {
    const box = scroller.current;
    if (box === null) return;
    const width = box.clientWidth - margin;
    const away = x < box.scrollLeft + EDGE || x > box.scrollLeft + width - 60;
    if (!away && opened.current) return;
    opened.current = true;
    const begin = first - lead;
    box.scrollLeft = Math.max(0, x > begin + width - 60 || x < begin ? x - width * 0.25 : begin);
  }, [scroller, x, first, margin, lead]);
};
