/** Hear of every new version of a solo and of what it lies on. */

export type Heard = { readonly document: string; readonly version: number };

/** `heard` gets null, and so does every opening of the line: then all that is known may be old. Returns the end of it. */
export const listen = (soloId: string, heard: (news: Heard | null) => void): (() => void) => {
  const source = new EventSource(`/api/solos/${soloId}/news`);
  source.onmessage = (event: MessageEvent<string>) => heard(JSON.parse(event.data) as Heard | null);
  source.onopen = () => heard(null); // at first, too: something may have been stored between opening and listening
  return () => source.close();
};
