/** Every command of the page, by name. A stage that is added puts its table here. */
import { ANALYSIS } from "@/features/analysis/commands";
import { CHECKING } from "@/features/checking/commands";
import { NOTES } from "@/features/notes/commands";
import { LISTENING } from "@/features/notes/listeningCommands";
import { PHRASES } from "@/features/phrases/commands";
import { SOUND } from "@/features/sound/commands";
import { TEACHING } from "@/features/teach/commands";
import { type Command, type Commands, table } from "@/score/commands";
import { openDocument } from "@/score/document";
import { type Look, setLook, useLook } from "@/score/look";
import { openSolo } from "@/score/sending";
import { openKeys, openLegend, openTaking } from "@/score/shown";

const look = useLook.getState;
const STYLES = { default: "Degrees by the chord", plain: "Degrees plain", extended: "Degrees extended" } as const;

/** Names and degrees are said by the server: the solo is asked for anew. */
const readAs = (change: Partial<Look["reader"]>): void => {
  setLook({ reader: { ...look().reader, ...change } });
  const soloId = openDocument().bench?.solo_id;
  if (soloId !== undefined) void openSolo(soloId);
};

const degrees = (style: keyof typeof STYLES) => ({
  says: `degrees ${style === "default" ? "by the chord" : style}`,
  label: () => STYLES[style],
  blocked: () => (look().reader.style === style ? "Degrees are shown like this already." : null),
  run: () => readAs({ style }),
});

const VIEW = table({
  legend: {
    says: "what shapes, lines and colours mean",
    label: () => "Legend",
    atOnce: true,
    run: () => openLegend(true),
  },
  dark: {
    says: "dark or light",
    label: () => (look().theme === "day" ? "Dark" : "Light"),
    run: () => setLook({ theme: look().theme === "day" ? "slate" : "day" }),
  },
  "turn the strings": {
    says: "string 1 on top or at the bottom",
    label: () => (look().flipStrings ? "String 1 on top" : "String 1 at the bottom"),
    run: () => setLook({ flipStrings: !look().flipStrings }),
  },
  "degrees by the chord": degrees("default"),
  "degrees plain": degrees("plain"),
  "degrees extended": degrees("extended"),
  names: {
    says: "names in letters or syllables",
    label: () => (look().reader.names === "letters" ? "Names in syllables" : "Names in letters"),
    run: () => readAs({ names: look().reader.names === "letters" ? "syllables" : "letters" }),
  },
  counting: {
    says: "how triplets are counted",
    label: () => (look().reader.school === "a" ? "Count 1 & a, 1 la li" : "Count 1 trip let, 1 2 3"),
    run: () => readAs({ school: look().reader.school === "a" ? "b" : "a" }),
  },
  "hand block": {
    says: "hand block at the left or the right of the board",
    label: () => (look().mirrorHand ? "Hand block at the left" : "Hand block at the right"),
    run: () => setLook({ mirrorHand: !look().mirrorHand }),
  },
});

const exported = (label: string, file: string) => ({
  says: `export: ${label}`,
  label: () => label,
  run: () => {
    const soloId = openDocument().bench?.solo_id ?? "";
    location.assign(`/api/solos/${soloId}/${file}?${new URLSearchParams(look().reader).toString()}`);
  },
});

const asked = (label: string, says: string, taking: "formats" | "picture" | "sound") => ({
  says: `export: ${says}`,
  label: () => label,
  atOnce: true,
  run: () => openTaking(taking),
});

const EXPORT = table({
  "export document": exported("Solo document (JSON)", "document.json"),
  "export tablature": exported("Text tablature", "tab.txt"),
  "export chart": exported("Chord chart (text)", "chart.txt"),
  "export sections": exported("Sections (columns)", "sections.tsv"),
  "export formats": asked("Other formats …", "MusicXML, MIDI, JAMS and tables", "formats"),
  "export picture": asked("Picture …", "a phrase or bars as a picture", "picture"),
  "export sound": asked("Sound …", "a span as sound files", "sound"),
});

const HELP = table({ keys: { says: "this list of keys", atOnce: true, run: () => openKeys(true) } });

export const COMMANDS: Commands = {
  ...SOUND,
  ...NOTES,
  ...LISTENING,
  ...CHECKING,
  ...ANALYSIS,
  ...PHRASES,
  ...TEACHING,
  ...VIEW,
  ...EXPORT,
  ...HELP,
};
/** What the menus at the top list. */
export const MENUS: Readonly<Record<"Export" | "View", readonly Command[]>> = {
  Export: Object.values(EXPORT),
  View: Object.values(VIEW),
};
