import { useEffect, useRef } from "react";
import type { Sheet } from "./PaperPage";

/** One line of staff notation over a page, in points of the page. */
export function StaffOver({ sheet, at, onDrawn }: { sheet: Sheet; at: number; onDrawn: () => void }) {
  const box = useRef<HTMLDivElement>(null);
  const place = sheet.staves[at];
  useEffect(() => {
    if (box.current === null || place === undefined) return;
    const own = box.current;
    void import("./staff")
      .then(({ drawStaff }) => drawStaff(own, place))
      .then(() => {
        const svg = own.querySelector("svg");
        if (svg === null) return;
        svg.setAttribute("width", "100%");
        svg.setAttribute("height", "100%");
        svg.style.width = svg.style.height = "100%";
        svg.style.overflow = "visible";
        onDrawn();
      });
  }, [place]); // eslint-disable-line react-hooks/exhaustive-deps -- said once it is drawn
  if (place === undefined) return null;
  const share = (points: number, of: number) => `${(100 * points) / of}%`;
  return (
    <div
      ref={box}
      role="img"
      aria-label="Staff notation"
      className="staff absolute text-black"
      style={{
        left: share(place.x, sheet.width),
        top: share(place.y, sheet.height),
        width: share(place.width * place.scale, sheet.width),
        height: share(place.height * place.scale, sheet.height),
      }}
    />
  );
}
