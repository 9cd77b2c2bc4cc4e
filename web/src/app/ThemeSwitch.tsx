import { setLook, useLook } from "@/score/look";

export function ThemeSwitch() {
  const theme = useLook((look) => look.theme);
  const other = theme === "day" ? "slate" : "day";
  return (
    <button
      type="button"
      className="px-1 text-ink-2 underline-offset-4 hover:underline"
      onClick={() => setLook({ theme: other })}
    >
      {other === "day" ? "Light" : "Dark"}
    </button>
  );
}
