/** Where the keyboard belongs when nothing else has it: the strip or the list of a page, marked `data-home`. */
const HOME = "[data-home]";
const ABOVE = "[role=dialog], [role=menu], [data-choosing]"; // what lies over the page and has the keys to itself
const TEXT = "textarea, [contenteditable=true], input:not([type=checkbox], [type=radio], [type=range], [type=file])";
const SECOND_CLICK_MS = 500;

let pointed = false; // the last thing that was done was done with a pointer
window.addEventListener("pointerdown", () => (pointed = true), true);
window.addEventListener("keydown", () => (pointed = false), true);

/** Something lies over the page: a dialog, a menu, a list to choose from. */
export const covered = (): boolean => document.querySelector(ABOVE) !== null;
export const isTyped = (target: EventTarget | null): boolean =>
  target instanceof Element && target.closest(TEXT) !== null;
export const isAbove = (target: EventTarget | null): boolean =>
  target instanceof Element && target.closest(ABOVE) !== null;

/** Give the keyboard back; false where a page has no such place. */
export const goHome = (): boolean => {
  const home = document.querySelector<HTMLElement>(HOME);
  home?.focus({ preventScroll: true });
  return home !== null;
};

/** For what closes: a dialog or a sheet gives the keys back, unless another one is open beneath it. */
export const keysGoHome = (event: Event): void => {
  if (!covered() && goHome()) event.preventDefault();
};

/** For a menu that closes: the same, and what an item has just opened keeps the focus. */
export const menuGoesHome = (event: Event): void => {
  if (covered() || goHome()) event.preventDefault();
};

/** For a list that one chooses from: a mouse leaves the keys with the page, a key leaves them with the list's button. */
export const choiceGoesHome = (event: Event): void => {
  if (pointed && document.querySelector("[role=dialog]") === null && goHome()) event.preventDefault();
};

/** What takes keys of its own and keeps them: a grid, a pad that is tapped. */
const OWN_KEYS = "[role=grid], [role=listbox], [data-own-keys]";
export const takesKeys = (target: EventTarget | null): boolean =>
  target instanceof Element && target.closest(OWN_KEYS) !== null;

const PRESSED = "button, summary, input[type=checkbox], input[type=radio], input[type=range]";

/** While a page is open: a click leaves the keys where they belong, and a key that nothing has the focus for goes there. */
export const keepKeysHome = (): (() => void) => {
  const afterPress = (event: Event) => {
    const target = event.target as Element;
    if (!pointed || isAbove(target) || takesKeys(target)) return;
    const pressed = target.closest(PRESSED);
    if (pressed === null || covered()) return;
    // What the press opened may have taken the focus; only what kept it, or lost it, gives it back.
    if (document.activeElement === pressed || document.activeElement === document.body) goHome();
  };
  const lost = (event: KeyboardEvent) => {
    if (event.target !== document.body || covered() || !goHome()) return;
    event.stopPropagation();
    const again = new KeyboardEvent(event.type, { ...keyOf(event), bubbles: true, cancelable: true });
    if (document.activeElement?.dispatchEvent(again) === false) event.preventDefault();
  };
  const leave = (event: KeyboardEvent) => {
    const target = event.target as Element;
    if (event.defaultPrevented || event.isComposing || isAbove(target) || target.closest(HOME) !== null) return;
    // A form has its own Enter; Escape leaves every field and button, and what was typed stays.
    const enters =
      event.key === "Enter" && isTyped(target) && target.matches("input") && target.closest("form") === null;
    if (event.key === "Escape" || enters) goHome();
  };
  window.addEventListener("click", afterPress);
  window.addEventListener("change", afterPress);
  window.addEventListener("keydown", lost, true);
  window.addEventListener("keydown", leave);
  return () => {
    window.removeEventListener("click", afterPress);
    window.removeEventListener("change", afterPress);
    window.removeEventListener("keydown", lost, true);
    window.removeEventListener("keydown", leave);
  };
};

const keyOf = ({ key, code, shiftKey, ctrlKey, metaKey, altKey, repeat }: KeyboardEvent): KeyboardEventInit => ({
  key,
  code,
  shiftKey,
  ctrlKey,
  metaKey,
  altKey,
  repeat,
});

let last = { x: 0, y: 0, at: 0 }; // where a pointer last went down
let closedAt = -Infinity; // when a dialog was last closed
let swallowing = false; // the click that is under way began as the second one
const near = (event: MouseEvent): boolean =>
  event.timeStamp - last.at < SECOND_CLICK_MS && Math.hypot(event.clientX - last.x, event.clientY - last.y) < 6;
/** Whether it belongs to the second click of a double click whose first one closed a dialog. */
const ofSecondClick = (event: MouseEvent): boolean => {
  const after = event.timeStamp - closedAt < SECOND_CLICK_MS && last.at <= closedAt;
  if (event.type === "pointerdown") return after && near(event);
  return event.detail > 0 && (swallowing || (after && event.detail > 1)); // a key clicks with a detail of 0
};
for (const kind of ["pointerdown", "mousedown", "mouseup", "click", "dblclick"] as const)
  window.addEventListener(
    kind,
    (event) => {
      const second = ofSecondClick(event);
      if (second) {
        event.preventDefault();
        event.stopPropagation();
      }
      if (kind === "pointerdown") {
        swallowing = second;
        last = { x: event.clientX, y: event.clientY, at: event.timeStamp };
      }
    },
    true,
  );

/** A dialog closes: the second click of the double click that closed it does not reach what lies beneath. */
export const swallowSecondClick = (): void => {
  if (pointed) closedAt = performance.now();
};
