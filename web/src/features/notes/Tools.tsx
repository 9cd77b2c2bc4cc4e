import type { ReactNode } from "react";
import { useDocument } from "@/score/document";
import { type Tool, openTool, useShown } from "@/score/shown";
import { ByEarTool } from "./ByEarTool";
import { DoubtsTool } from "./DoubtsTool";
import { FindTool } from "./FindTool";
import { HandTool } from "./HandTool";
import { HistoryTool } from "./HistoryTool";
import { ListenTool } from "./ListenTool";
import type { Player } from "@/score/playing";
import { VersionsTool } from "./VersionsTool";

const TOOLS: readonly (readonly [Tool, string])[] = [
  ["note", "note"],
  ["listen", "listen"],
  ["hand", "hand"],
  ["doubts", "doubts"],
  ["by ear", "by ear"],
  ["find", "find and write"],
  ["versions", "versions"],
  ["history", "history"],
];

type Props = { player: Player; children: ReactNode };

/** What stands beside the neck: the note in hand, or one of the tools for the span at hand. */
export function Tools({ player, children }: Props) {
  const tool = useShown((state) => state.tool);
  const doubts = useDocument(
    (state) => Object.values(state.elements.questions).filter((one) => one.answer === null).length,
  );
  const body = {
    note: children,
    listen: <ListenTool player={player} />,
    hand: <HandTool />,
    doubts: <DoubtsTool player={player} />,
    "by ear": <ByEarTool player={player} />,
    find: <FindTool />,
    versions: <VersionsTool />,
    history: <HistoryTool />,
  }[tool];
  return (
    <div className="min-w-0">
      <nav aria-label="Tools" className="mb-1 flex flex-wrap gap-x-4 text-[14px] max-sm:gap-y-2 max-sm:text-[16px]">
        {TOOLS.map(([name, word]) => (
          <button
            key={name}
            type="button"
            aria-pressed={tool === name}
            className={`border-b-2 leading-6 ${tool === name ? "border-ink font-bold" : "border-transparent text-ink-2 hover:border-rule-2"}`}
            onClick={() => openTool(name)}
          >
            {word}
            {name === "doubts" && doubts > 0 ? ` ${doubts}` : ""}
          </button>
        ))}
      </nav>
      {tool === "note" ? (
        <div className="sm:min-h-[180px]">{body}</div>
      ) : (
        <section aria-label={`Tool: ${tool}`} className="overflow-y-auto pr-2 sm:h-[180px]">
          {body}
        </section>
      )}
    </div>
  );
}
