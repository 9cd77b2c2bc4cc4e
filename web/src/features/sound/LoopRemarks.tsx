import { usePlaying } from "@/score/playing";
import { remarksIn, useTeaching } from "@/score/teaching";
import { drawn } from "@/ui/signs";

/** What the teacher wrote about what loops; over the player of every stage. */
export function LoopRemarks() {
  const loop = usePlaying((state) => state.loop);
  const playing = usePlaying((state) => state.playing);
  const plan = useTeaching((state) => state.plan);
  const remarks = loop === null || !playing ? [] : remarksIn(plan, loop.tick, loop.end);
  if (remarks.length === 0) return null;
  return (
    <section
      aria-label="Remarks on the loop"
      className="absolute inset-x-0 bottom-full z-20 border-t border-rule bg-sheet px-5 py-2"
    >
      {remarks.map((one) => (
        <p key={one.id} className="text-[18px]">
          <span className="text-[15px] text-ink-2">{one.place}: </span>
          {drawn(one.words)}
        </p>
      ))}
    </section>
  );
}
