/** Peaks of a recording by level, and the ridge that they draw: upwards only. */

/** `loudest`: the largest value, to which the ridge is drawn. */
export type Peaks = { readonly values: Int8Array; readonly blockS: number; readonly loudest: number };

const BASE_FRAMES = 256;
const STEP = 4;
const RATE_HZ = 48_000;
const loaded = new Map<string, Promise<Peaks>>();

/** One level: three signed bytes a block (min, max, rms). */
export const loadPeaks = (recordingId: string, level: number): Promise<Peaks> => {
  const key = `${recordingId}/${level}`;
  let asked = loaded.get(key);
  if (asked === undefined) {
    asked = fetch(`/api/recordings/${recordingId}/peaks/${level}`).then(async (answer) => {
      if (!answer.ok) throw new Error(`peaks ${answer.status}`);
      const values = new Int8Array(await answer.arrayBuffer());
      return { values, blockS: (BASE_FRAMES * STEP ** level) / RATE_HZ, loudest: loudestOf(values) };
    });
    asked.catch(() => loaded.delete(key));
    loaded.set(key, asked);
  }
  return asked;
};

const loudestOf = (values: Int8Array): number => values.reduce((most, value) => Math.max(most, Math.abs(value)), 1);

/** The coarsest level whose blocks are no wider than two pixels. */
export const levelFor = (pxPerS: number): number => {
  for (let level = 4; level > 0; level -= 1) if (((BASE_FRAMES * STEP ** level) / RATE_HZ) * pxPerS <= 2) return level;
  return 0;
};

/** A closed path of the loudest values, one a pixel, standing on the lower edge; the loudest of all is as high as the lane. */
export const ridge = (peaks: Peaks, fromS: number, toS: number, width: number, height: number): string => {
  const points: string[] = [];
  const columns = Math.max(1, Math.round(width));
  for (let x = 0; x <= columns; x += 1) {
    const first = Math.floor((fromS + ((toS - fromS) * x) / columns) / peaks.blockS);
    const last = Math.max(first + 1, Math.floor((fromS + ((toS - fromS) * (x + 1)) / columns) / peaks.blockS));
    let most = 0;
    for (let block = Math.max(0, first); block < last && block * 3 + 2 < peaks.values.length; block += 1) {
      most = Math.max(most, peaks.values[block * 3 + 1] ?? 0, -(peaks.values[block * 3] ?? 0));
    }
    points.push(`L${x} ${(height * (1 - most / peaks.loudest)).toFixed(1)}`);
  }
  return `M0 ${height}${points.join("")}L${columns} ${height}Z`;
};
