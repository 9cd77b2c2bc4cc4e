/** The server's answers, typed from its OpenAPI; refusals come back as `Refusal`. */
import createClient from "openapi-fetch";
import type { components, paths } from "./schema.gen";

export type Schemas = components["schemas"];
export type Problem = Schemas["Problem"];

/** How degrees and names are said to this reader: an argument of every call. */
export type Reader = { style: "default" | "plain" | "extended"; names: "letters" | "syllables"; school: "a" | "b" };
let reader: Reader = { style: "default", names: "letters", school: "a" };
export const readAs = (next: Reader): void => {
  reader = next;
};

export const api = createClient<paths>({
  baseUrl: "",
  querySerializer: (query) => {
    const said = Object.entries(query).filter(([, value]) => value !== undefined && value !== null);
    return new URLSearchParams([
      ...said.map(([name, value]) => [name, String(value)]),
      ...Object.entries(reader),
    ]).toString();
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

export const AWAY = "The server does not answer. Try again when it is back.";

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
  if (problem.code === "store-full") throw new Unreachable(problem.title);
  throw new Refusal(problem as Problem, answer.response.status);
}

const NOT_BROUGHT =
  "The server does not answer, and nothing of the file is kept there. Bring it again when it is back.";

/** Bring a file, with how much of it has gone; `stop` ends it, and then nothing is stored of it. */
export function bring(file: File, went: (share: number) => void, stop: AbortSignal): Promise<Schemas["Brought"]> {
  return new Promise((resolve, reject) => {
    const request = new XMLHttpRequest();
    request.open("POST", "/api/recordings");
    request.responseType = "json";
    request.upload.onprogress = (event) => {
      if (event.lengthComputable) went(event.loaded / event.total);
    };
    request.onload = () => {
      const problem = request.response as Problem | null;
      if (request.status < 300) resolve(request.response as Schemas["Brought"]);
      else if (problem?.code === undefined || problem.code === "store-away") reject(new Unreachable(NOT_BROUGHT));
      else reject(new Refusal(problem, request.status));
    };
    request.onerror = () => {
      reject(new Unreachable(NOT_BROUGHT));
    };
    request.onabort = () => {
      reject(new DOMException("stopped", "AbortError"));
    };
    stop.addEventListener("abort", () => {
      request.abort();
    });
    const body = new FormData();
    body.append("file", file);
    request.send(body);
  });
}

/** The sentence of anything thrown. */
export function sentence(fault: unknown): string {
  if (fault instanceof Refusal || fault instanceof Unreachable) return fault.message;
  console.error(fault);
  return "Something went wrong in the page; what was written is kept.";
}
