import { useEffect } from "react";
import { Link, useNavigate, useParams } from "react-router";
import { PlayerList } from "@/features/players/PlayerList";
import { PlayerPage } from "@/features/players/PlayerPage";
import { loadPlayers } from "@/features/players/portrait";
import { TopBar } from "./TopBar";

export function PlayersPage() {
  const { playerId } = useParams();
  const navigate = useNavigate();
  useEffect(() => {
    document.title = "Players · Usagi";
    if (playerId !== undefined) void loadPlayers();
  }, [playerId]);
  return (
    <div className="min-h-full">
      <TopBar here="Players" />
      {playerId === undefined ? (
        <>
          <h1 className="sr-only">Players</h1>
          <PlayerList
            link={(id, children) => (
              <Link to={`/players/${id}`} className="block">
                {children}
              </Link>
            )}
          />
        </>
      ) : (
        <PlayerPage
          key={playerId}
          player={playerId}
          onOpenNotes={(solo, note) => void navigate(`/solos/${solo}/analysis?note=${note}`)}
        />
      )}
    </div>
  );
}
