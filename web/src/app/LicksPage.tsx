import { useEffect, useLayoutEffect } from "react";
import { useNavigate, useSearchParams } from "react-router";
import { searchFor } from "@/features/licks/book";
import { LickBook } from "@/features/licks/LickBook";
import { TopBar } from "./TopBar";

export function LicksPage() {
  const navigate = useNavigate();
  const [params] = useSearchParams();
  const wanted = params.get("text");
  useLayoutEffect(() => {
    if (wanted !== null) searchFor(wanted);
  }, [wanted]);
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
