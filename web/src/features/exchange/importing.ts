/** Files of other programs: what the server makes of one, and bringing it in. */
import { api, type Schemas, take } from "@/api/client";

export type Look = Schemas["ImportView"];
/** How a file comes in; the way counts from 0. */
export type How = { readonly part: string | null; readonly lengths: string | null; readonly way: number };

export const ENDINGS = ".json,.musicxml,.xml,.mxl,.mid,.midi,.jams,.txt,.tab";

const form = (file: File, how: How, more: Record<string, string> = {}): FormData => {
  const body = new FormData();
  body.append("file", file);
  if (how.part !== null) body.append("part", how.part);
  if (how.lengths !== null) body.append("lengths", how.lengths);
  body.append("way", String(how.way));
  for (const [name, value] of Object.entries(more)) body.append(name, value);
  return body;
};
const sent = (body: FormData) => ({ body: body as never, bodySerializer: (one: unknown) => one as never });

export const lookInto = (file: File, how: How, into: string | null): Promise<Look> =>
  take(api.POST("/api/imports/look", sent(form(file, how, into === null ? {} : { into }))));

/** As a new solo, under an id: brought twice, it is there once. */
export const bringNew = (file: File, how: How, solo: string): Promise<Schemas["Imported"]> =>
  take(api.POST("/api/imports", { params: { query: { solo } }, ...sent(form(file, how)) }));

export const bringInto = (soloId: string, file: File, how: How): Promise<Schemas["Answer"]> =>
  take(
    api.POST("/api/solos/{solo_id}/imports", {
      params: { path: { solo_id: soloId } },
      ...sent(form(file, how)),
    }),
  );
