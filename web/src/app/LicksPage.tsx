import { useEffect, useLayoutEffect } from "react";
import { useNavigate, useSearchParams } from "react-router";
import { inAddress, openAt, useBook } from "@/features/licks/book";
import { LickBook } from "@/features/licks/LickBook";
import { TopBar } from "./TopBar";

export function LicksPage() {
  const navigate = useNavigate();
  const [params] = useSearchParams();
  const text = useBook((state) => state.text);
  const narrowed = useBook((state) => state.narrowed);
  useLayoutEffect(() => openAt(params), []); // eslint-disable-line react-hooks/exhaustive-deps -- the address is read once, then written
  useEffect(() => {
    const query = inAddress({ text, narrowed }).toString();
    // Past the router, which would draw the page anew with every letter.
    history.replaceState(history.state, "", `${location.pathname}${query === "" ? "" : `?${query}`}`);
  }, [text, narrowed]);
  useEffect(() => {
    document.title = "Lick book · Usagi";
  }, []);
  return (
    <div className="flex h-full flex-col max-lg:h-auto">
      <TopBar here="Lick book" />
      <h1 className="sr-only">Lick book</h1>
      <LickBook
        onOpen={(lick) => void navigate(`/solos/${lick.solo ?? ""}/phrases?at=${lick.tick}`)}
        onOpenSolo={(solo) => void navigate(`/solos/${solo}/notes`)}
      />
    </div>
  );
}
