import type { ReactNode } from "react";
import { openTool, type Tool, useBench } from "@/score/bench";
import { ByEarTool } from "./ByEarTool";
import { DoubtsTool } from "./DoubtsTool";
import { FindTool } from "./FindTool";
import { HandTool, type HandSize } from "./HandTool";
import { HistoryTool } from "./HistoryTool";
import type { Playing } from "./playing";
import { VersionsTool } from "./VersionsTool";

const TOOLS: readonly (readonly [Tool, string])[] = [["note", "note"], ["hand", "hand"], ["doubts", "doubts"], ["by ear", "by ear"], ["find", "find and write"], ["versions", "versions"], ["history", "history"]];

type Props = { player: Playing; handSize: HandSize; onHandSize: (size: HandSize) => void; children: ReactNode };

/** What stands beside the neck: the note in hand, or one of the tools for the span at hand. */
export function Tools({ player, handSize, onHandSize, children }: Props) {
  const tool = useBench((state) => state.tool);
  const doubts = useBench((state) => Object.values(state.things.questions).filter((one) => one.answer === null).length);
  const body = {
    note: children,
    hand: <HandTool size={handSize} onSize={onHandSize} />,
    doubts: <DoubtsTool player={player} />,
    "by ear": <ByEarTool player={player} />,
    find: <FindTool handSize={handSize} />,
    versions: <VersionsTool />,
    history: <HistoryTool />,
  }[tool];
  return (
    <div className="min-w-0">
      <nav aria-label="Tools" className="mb-1 flex flex-wrap gap-x-4 text-[14px] max-sm:hidden">
        {TOOLS.map(([name, word]) => (
          <button key={name} type="button" aria-pressed={tool === name} className={`border-b-2 leading-6 ${tool === name ? "border-ink font-bold" : "border-transparent text-ink-2 hover:border-rule-2"}`} onClick={() => openTool(name)}>
            {word}{name === "doubts" && doubts > 0 ? ` ${doubts}` : ""}
          </button>
        ))}
      </nav>
      {tool === "note" ? body : <section aria-label={`Tool: ${tool}`} className="max-h-[176px] overflow-y-auto pr-2">{body}</section>}
    </div>
  );
}
