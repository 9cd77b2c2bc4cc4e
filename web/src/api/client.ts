/** The server's answers, typed from its OpenAPI; refusals come back as `Refusal`. */
import createClient from "openapi-fetch";
import type { components, paths } from "./schema.gen";

export type Schemas = components["schemas"];
export type Problem = Schemas["Problem"];

/** How degrees and names are said to this reader: an argument of every call. */
export type Reader = { style: "default" | "plain" | "extended"; names: "letters" | "syllables" };
let reader: Reader = { style: "default", names: "letters" };
export const readAs = (next: Reader): void => {
  reader = next;
};

export const api = createClient<paths>({
  baseUrl: "",
  querySerializer: (query) => {
    const said = Object.entries(query).filter(([, value]) => value !== undefined && value !== null);
    return new URLSearchParams([...said.map(([name, value]) => [name, String(value)]), ...Object.entries(reader)]).toString();
  },
});

/** A refusal with the server's own sentence for a person. */
export class Refusal extends Error {
  constructor(
    readonly problem: Problem,
    readonly status: number,
  ) {
    super(problem.title);
  }
}

/** The server could not be reached: nothing is known about what it did. */
export class Unreachable extends Error {}

const AWAY = "The server does not answer. Your work is kept here and goes when it is back.";

/** Take the data of an answer, or throw its refusal. */
export async function take<T>(asked: Promise<{ data?: T; error?: unknown; response: Response }>): Promise<T> {
  let answer;
  try {
    answer = await asked;
  } catch {
    throw new Unreachable(AWAY);
  }
  if (answer.response.ok) return answer.data as T;
  const problem = answer.error as Partial<Problem> | undefined;
  if (problem?.title === undefined || problem.code === undefined || problem.code === "store-away") {
    throw new Unreachable(AWAY);
  }
  throw new Refusal(problem as Problem, answer.response.status);
}

/** The sentence of anything thrown. */
export function sentence(fault: unknown): string {
  if (fault instanceof Refusal || fault instanceof Unreachable) return fault.message;
  console.error(fault);
  return "Something went wrong in the page; what was written is kept.";
}
