/** What can be done with the sound. */
import { table } from "@/score/commands";
import { atHand, choosePhrase, select, setCursor } from "@/score/cursor";
import { openDocument, phraseAt } from "@/score/document";
import { playingNow } from "@/score/playing";
import { player } from "./player";

/** Choose a phrase and loop it. */
export const loopPhrase = (id: string): void => {
  const phrase = openDocument().elements.phrases[id];
  if (phrase === undefined) return;
  choosePhrase(id);
  select(null);
  setCursor({ tick: phrase.start });
  void player.loopOver({ phrase: id }, true);
};

/** Loop what is marked, else the phrase at the cursor; once more: no loop. */
const loopHere = (): void => {
  const { selection, cursor } = atHand();
  if (playingNow().loop !== null) return player.dropLoop();
  if (selection !== null) return void player.loopOver(selection, true);
  const phrase = phraseAt(cursor.tick);
  if (phrase === undefined) return;
  choosePhrase(phrase.id);
  void player.loopOver({ phrase: phrase.id }, true);
};
const nothingToLoop = (): string | null => {
  const { selection, cursor } = atHand();
  return playingNow().loop === null && selection === null && phraseAt(cursor.tick) === undefined
    ? "There is no phrase here. Mark a span to loop it."
    : null;
};

const nextPhrase = (by: 1 | -1): void => {
  const { phrase, cursor } = atHand();
  const phrases = Object.values(openDocument().elements.phrases).sort((a, b) => a.start - b.start);
  const now = phrases.findIndex((one) => one.id === phrase);
  const next =
    now >= 0
      ? phrases[now + by]
      : by > 0
        ? phrases.find((one) => one.end > cursor.tick)
        : phrases.filter((one) => one.end <= cursor.tick).pop();
  if (next !== undefined) loopPhrase(next.id);
};

const cursorToPlayhead = (): void => {
  const second = player.position();
  if (second !== null) setCursor({ tick: Math.round(openDocument().grid.tick(second)) });
};

export const SOUND = table({
  play: { key: "Space", says: "play from the cursor, or stop", atOnce: true, run: player.toggle },
  loop: {
    key: "Backslash",
    says: "loop the phrase or the marked span",
    atOnce: true,
    blocked: nothingToLoop,
    run: loopHere,
  },
  slower: {
    key: "BracketLeft",
    says: "slower by 5 %, or a step down",
    atOnce: true,
    run: () => player.faster(-1),
  },
  faster: {
    key: "BracketRight",
    says: "faster by 5 %, or a step up",
    atOnce: true,
    run: () => player.faster(1),
  },
  back: { key: "End", says: "play the last two seconds again", atOnce: true, run: player.back },
  fetch: { shift: "play", says: "move the cursor to the playhead", run: cursorToPlayhead },
  "next phrase": { says: "loop the next phrase", run: () => nextPhrase(1) },
  "phrase before": { says: "loop the phrase before", run: () => nextPhrase(-1) },
  hear: {
    shift: "loop",
    says: "hear the recording, the writing, both apart, both, or bar by bar in turns",
    atOnce: true,
    run: player.hearNext,
  },
});
