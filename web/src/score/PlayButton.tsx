import { useHearing } from "./hearing";

/** Play, or stop; an icon, for these two alone. */
export function PlayButton({
  sound,
  label,
  onPlay,
  small,
  inList,
}: {
  sound: string;
  label: string;
  onPlay: () => void;
  small?: boolean;
  /** In a list that has a key of its own for it. */
  inList?: boolean;
}) {
  const playing = useHearing((state) => state.playing === sound);
  const pending = useHearing((state) => state.pending === sound);
  const size = small === true ? 30 : 40;
  return (
    <button
      type="button"
      {...(inList === true ? { tabIndex: -1 } : {})}
      aria-label={playing ? "Stop" : label}
      aria-busy={pending}
      onClick={(event) => {
        event.stopPropagation();
        onPlay();
      }}
      className={`grid shrink-0 place-items-center rounded-full ${playing ? "bg-sound" : "bg-ink"} ${pending ? "opacity-60" : ""}`}
      style={{ width: size, height: size }}
    >
      <svg width={size / 2} height={size / 2} viewBox="0 0 20 20" aria-hidden className="fill-paper">
        {playing ? <path d="M5 4h4v12H5zM11 4h4v12h-4z" /> : <path d="M6 3l11 7-11 7z" />}
      </svg>
    </button>
  );
}
