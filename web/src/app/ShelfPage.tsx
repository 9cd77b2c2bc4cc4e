import { useEffect, useState } from "react";
import { useNavigate } from "react-router";
import { NewSolo } from "@/features/studio/NewSolo";
import { Shelf } from "@/features/studio/Shelf";
import { Mark } from "./Mark";
import { ThemeSwitch } from "./ThemeSwitch";

export function ShelfPage() {
  const navigate = useNavigate();
  const [bringing, setBringing] = useState<File | "none" | null>(null);
  useEffect(() => {
    document.title = "Shelf · Usagi";
  }, []);
  const open = (id: string) => void navigate(`/solos/${id}/notes`);
  return (
    <div className="flex min-h-full flex-col">
      <header className="flex h-14 items-center gap-6 border-b border-rule px-7">
        <Mark />
        <h1 className="border-b-4 border-ink pt-1 text-[17px] font-bold leading-[50px]">Shelf</h1>
        <span className="ml-auto" />
        <ThemeSwitch />
      </header>
      <Shelf onBring={setBringing} />
      {bringing !== null && (
        <NewSolo file={bringing === "none" ? null : bringing} onClose={() => setBringing(null)} onStarted={open} />
      )}
    </div>
  );
}
