import { useEffect, useState } from "react";
import { useNavigate } from "react-router";
import { ImportFile } from "@/features/exchange/ImportFile";
import { NewSolo } from "@/features/studio/NewSolo";
import { Shelf } from "@/features/studio/Shelf";
import { TopBar } from "./TopBar";

export function ShelfPage() {
  const navigate = useNavigate();
  const [bringing, setBringing] = useState<File | "none" | null>(null);
  useEffect(() => {
    document.title = "Shelf · Usagi";
  }, []);
  const open = (id: string) => void navigate(`/solos/${id}/notes`);
  return (
    <div className="flex min-h-full flex-col">
      <TopBar here="Shelf" />
      <h1 className="sr-only">Shelf</h1>
      <Shelf onBring={setBringing} importing={<ImportFile onOpen={open} />} />
      {bringing !== null && (
        <NewSolo file={bringing === "none" ? null : bringing} onClose={() => setBringing(null)} onStarted={open} />
      )}
    </div>
  );
}
