/**
 * A command is something a person can do: by key, button, menu or pedal. Each feature states its own in a table; app/commands.ts
 * joins the tables, and the keys, the buttons, the menus, the list of keys and the tests read that one.
 */
import { hint } from "./saving";
import { inTurn } from "./sending";
import { awaitWords } from "./shown";

export type Command<Name extends string = string> = {
  readonly name: Name;
  /** What it does, in the list of keys. */
  readonly says: string;
  /** What a menu calls it now, where that is not its name. */
  readonly label?: () => string;
  /** Its key, by its place on the board (KeyboardEvent.code). */
  readonly key?: string;
  /** Another command, whose key does this one with shift held down. */
  readonly shift?: string;
  /** Another command, whose key (and whose shift) does this one while `inForce` says so. */
  readonly instead?: string;
  readonly inForce?: () => boolean;
  /** Why it cannot be done now; null when it can. */
  readonly blocked?: () => string | null;
  /** It changes what is written. */
  readonly writes?: boolean;
  /** It opens a field for words: until that is there, no key writes a note. */
  readonly words?: boolean;
  /** It does not wait behind an undo or a request that is under way. */
  readonly atOnce?: boolean;
  /** The key may be held down and repeats. */
  readonly repeats?: boolean;
  /** While its key is held down. */
  readonly held?: (down: boolean) => void;
  readonly run: () => void;
};
export type Commands = Readonly<Record<string, Command>>;

/** A feature's table; each command learns the name it stands under. */
export const table = <Name extends string>(
  commands: Readonly<Record<Name, Omit<Command, "name">>>,
): Readonly<Record<Name, Command<Name>>> =>
  Object.fromEntries(
    Object.entries<Omit<Command, "name">>(commands).map(([name, command]) => [name, { name, ...command }]),
  ) as unknown as Readonly<Record<Name, Command<Name>>>;

/** Said while a field for words was asked for and is not there. */
export const NO_FIELD = "No text field is open. Press Escape, and the keys write notes again.";

/** Do it, or say why it cannot be done; behind what is under way, unless it waits for nobody. */
export const perform = (command: Command): void => {
  const now = () => {
    const why = command.blocked?.() ?? null;
    if (why === null) command.run();
    else hint(command.words === true ? `${why} ${NO_FIELD}` : why);
  };
  if (command.words === true) awaitWords(true);
  if (command.atOnce === true) now();
  else inTurn(now);
};
