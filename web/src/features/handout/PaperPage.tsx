import { memo } from "react";
import type { Schemas } from "@/api/client";

export type Sheet = Schemas["Handout"];
type Mark = Sheet["pages"][number]["marks"][number];

const KNOCKED = 0.8; // points of white around a number on its string
const CAP = 0.68; // height of figures, of the size of the type
const ANCHORS = { start: 0, middle: 0.5, end: 1 } as const;

/** One page of a handout, as the server laid it: black on white, whatever the page around it looks like. */
export const PaperPage = memo(function PaperPage({ sheet, at }: { sheet: Sheet; at: number }) {
  const page = sheet.pages[at];
  if (page === undefined) return null;
  return (
    <svg
      role="img"
      aria-label={`Page ${at + 1} of ${sheet.pages.length}`}
      viewBox={`0 0 ${sheet.width} ${sheet.height}`}
      className="block h-auto w-full bg-white text-black"
      fill="black"
      stroke="none"
    >
      {page.marks.map((mark, i) => (
        <Drawn key={i} mark={mark} />
      ))}
    </svg>
  );
});

function Drawn({ mark }: { mark: Mark }) {
  switch (mark.kind) {
    case "text":
      return <Words mark={mark} />;
    case "line":
      return (
        <line
          x1={mark.x1}
          y1={mark.y1}
          x2={mark.x2}
          y2={mark.y2}
          stroke="black"
          strokeWidth={mark.width}
          strokeLinecap="round"
          strokeDasharray={mark.dashed ? "3 2" : undefined}
        />
      );
    case "curve":
      return (
        <path
          d={mark.path}
          fill={mark.filled ? "black" : "none"}
          stroke="black"
          strokeWidth={mark.width}
          strokeLinecap="round"
        />
      );
    case "box":
      return (
        <rect
          x={mark.x}
          y={mark.y}
          width={mark.width}
          height={mark.height}
          rx={mark.radius}
          fill={mark.filled ? "black" : "none"}
          stroke="black"
          strokeWidth={0.9}
          strokeDasharray={mark.dashed ? "2.5 1.8" : undefined}
        />
      );
  }
}

function Words({ mark }: { mark: Extract<Mark, { kind: "text" }> }) {
  const naming = mark.face === "naming";
  const left = mark.x - mark.across * ANCHORS[mark.anchor];
  return (
    <>
      {mark.knocked && (
        <rect
          x={left - KNOCKED}
          y={mark.y - mark.size * CAP - KNOCKED}
          width={mark.across + 2 * KNOCKED}
          height={mark.size * CAP + 2 * KNOCKED}
          fill="white"
        />
      )}
      <text
        x={mark.x}
        y={mark.y}
        fontSize={mark.size}
        textAnchor={mark.anchor}
        fill={mark.inverse ? "white" : "black"}
        style={{ fontFamily: naming ? "var(--font-naming)" : "var(--font-reading)" }}
        fontWeight={naming ? 600 : mark.face === "bold" ? 700 : 400}
      >
        {mark.text}
      </text>
    </>
  );
}
