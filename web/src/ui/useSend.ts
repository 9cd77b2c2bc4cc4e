import { useRef, useState } from "react";

/** What went wrong, in words; null once it is done; undefined: neither. */
export type Sent = string | null | undefined;

export type Sending = {
  readonly busy: boolean;
  readonly failed: string | null;
  /** Send, unless it is being sent; `done` comes only after it is. */
  readonly send: () => void;
  readonly isBusy: () => boolean;
};

/** One rule for all that stores something: while it sends it cannot send again, and what fails says why. */
export const useSend = (ask: () => Promise<Sent>, done: () => void): Sending => {
  const [failed, setFailed] = useState<string | null>(null);
  const [busy, setBusy] = useState(false);
  const under = useRef(false); // at once: a second Enter comes before the button is drawn anew
  const run = async () => {
    if (under.current) return;
    under.current = true;
    setBusy(true);
    setFailed(null);
    const why = await ask().finally(() => {
      under.current = false;
      setBusy(false);
    });
    if (why === null) done();
    else if (why !== undefined) setFailed(why);
  };
  return { busy, failed, send: () => void run(), isBusy: () => under.current };
};
