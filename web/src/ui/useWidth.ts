import { type RefObject, useLayoutEffect, useRef, useState } from "react";

/** The width that an element has, as the window changes. */
export const useWidth = <Box extends HTMLElement = HTMLSpanElement>(first: number): [RefObject<Box | null>, number] => {
  const box = useRef<Box>(null);
  const [width, setWidth] = useState(first);
  useLayoutEffect(() => {
    const element = box.current;
    if (element === null) return undefined;
    const observer = new ResizeObserver(([entry]) => {
      if (entry !== undefined && entry.contentRect.width > 0) setWidth(Math.floor(entry.contentRect.width));
    });
    observer.observe(element);
    return () => observer.disconnect();
  }, []);
  return [box, width];
};
