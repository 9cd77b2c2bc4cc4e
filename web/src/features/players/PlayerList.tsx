import { useEffect } from "react";
import { loadPlayers, usePlayers } from "./portrait";

/** Every player of whom a solo counts. */
export function PlayerList({ link }: { link: (id: string, children: React.ReactNode) => React.ReactNode }) {
  const players = usePlayers((state) => state.players);
  const trouble = usePlayers((state) => state.trouble);
  useEffect(() => void loadPlayers(), []);
  return (
    <main className="max-w-3xl px-7 py-6 max-sm:px-4">
      {trouble !== null && (
        <p role="alert" className="mb-4 border-l-4 border-doubt bg-sheet px-4 py-3">
          {trouble}
        </p>
      )}
      {players?.length === 0 && (
        <section className="py-8">
          <h2 className="font-naming text-[26px] font-semibold">No player is known yet.</h2>
          <p className="mt-2 text-[18px] text-ink-2">
            Say in Setup who plays a solo. What they do again and again is counted here as soon as notes are written.
          </p>
        </section>
      )}
      <ul aria-label="Players">
        {players?.map((player) => (
          <li key={player.id} className="border-b border-rule">
            {link(
              player.id,
              <span className="flex flex-wrap items-baseline justify-between gap-x-6 px-2 py-3 hover:bg-sheet">
                <span className="font-naming text-[22px] font-semibold">{player.name}</span>
                <span className="text-ink-2">{player.says}</span>
              </span>,
            )}
          </li>
        ))}
      </ul>
    </main>
  );
}
