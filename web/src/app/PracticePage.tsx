import { useEffect, useState } from "react";
import { Link, useNavigate, useParams, useSearchParams } from "react-router";
import { LoopPage } from "@/features/practice/LoopPage";
import { ThemeSwitch } from "./ThemeSwitch";

/** One line of a plan, full screen. The address holds which. */
export function PracticePage() {
  const { soloId = "" } = useParams();
  const [params] = useSearchParams();
  const navigate = useNavigate();
  const [full, setFull] = useState(false);
  const line = params.get("line") ?? "whole";
  // However it is left: by the button, by Escape, by the browser's own key.
  useEffect(() => {
    const see = () => setFull(document.fullscreenElement !== null);
    document.addEventListener("fullscreenchange", see);
    return () => document.removeEventListener("fullscreenchange", see);
  }, []);
  const fill = () => {
    const done = full ? document.exitFullscreen() : document.documentElement.requestFullscreen();
    done.catch(() => undefined); // a browser that does not fill the screen keeps its page
  };
  return (
    <LoopPage
      soloId={soloId}
      line={line}
      onLine={(key) => void navigate(`/practice/${soloId}?line=${encodeURIComponent(key)}`, { replace: true })}
    >
      <ThemeSwitch />
      <button type="button" className="text-ink-2 underline-offset-4 hover:underline max-sm:hidden" onClick={fill}>
        {full ? "Leave full screen" : "Full screen"}
      </button>
      <Link to={`/solos/${soloId}/teach?line=${encodeURIComponent(line)}`} className="font-bold">
        Back to the plan
      </Link>
    </LoopPage>
  );
}
