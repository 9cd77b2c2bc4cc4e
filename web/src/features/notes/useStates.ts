/** The states of a solo, the newest first, asked for again with every version. */
import { useEffect, useState } from "react";
import { api, type Schemas, sentence, take } from "@/api/client";
import { latest } from "@/api/latest";

export const useStates = (
  soloId: string,
  version: number,
  onTrouble: (words: string) => void,
): readonly Schemas["State"][] => {
  const [states, setStates] = useState<readonly Schemas["State"][]>([]);
  useEffect(
    () =>
      latest(
        take(api.GET("/api/solos/{solo_id}/states", { params: { path: { solo_id: soloId } } })),
        setStates,
        (fault) => onTrouble(sentence(fault)),
      ),
    [soloId, version, onTrouble],
  );
  return states;
};
