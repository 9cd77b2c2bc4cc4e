/** Accidentals as they are drawn: text travels with b and #, screens show ♭ and ♯. Type only, no music. */
export const drawn = (text: string): string =>
  text
    .replaceAll("#", "♯")
    .replace(/b+(?=\d)/g, (flats) => "♭".repeat(flats.length))
    .replace(/(?<![A-Za-z])b(?=[IV]|(?:i{1,3}|iv|vi{0,2})(?:$|[^a-z]|maj|dim))/g, "♭")
    .replace(/(?<=[A-G])b+(?=$|[^a-z]|m|d|a|s)/g, (flats) => "♭".repeat(flats.length));
