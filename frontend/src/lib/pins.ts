import type { Box, Finding, Line, Pin } from "./api/client";

export const lineText = (line: Line): string => line.words.map((w) => w.text).join(" ");

export function around(a: Box, b: Box): Box {
  const x = Math.min(a.x, b.x);
  const y = Math.min(a.y, b.y);
  return { x, y, w: Math.max(a.x + a.w, b.x + b.w) - x, h: Math.max(a.y + a.h, b.y + b.h) - y };
}

export const blank = {
  text: "",
  to: "",
  family: "",
  weight: 0,
  italic: null,
  size: 0,
  x: 0,
  columns: 0,
  gutter: 0,
  quality: 0,
  name: "",
  like: null,
  shares: [] as number[],
  was: "",
};

export const retype = (line: Line, to: string): Pin => ({
  ...blank,
  kind: "retype",
  rect: line.ink,
  text: lineText(line),
  to,
});

/** A finding that is as it should be. */
export const accept = (finding: Finding): Pin => ({
  ...blank,
  kind: "accept",
  rect: finding.rect,
  text: finding.text,
  to: finding.kind,
});

/** A place whose text is read anew, enlarged. */
export const readAgain = (rect: Box): Pin => ({ ...blank, kind: "again", rect });

/** A little room around a place, so that what stands in it is seen whole. */
export const roomy = (r: Box, by = 8): Box => ({
  x: Math.max(0, r.x - by),
  y: Math.max(0, r.y - by),
  w: r.w + 2 * by,
  h: r.h + 2 * by,
});

export const setType = (
  line: Line,
  type: Partial<Pick<Pin, "family" | "weight" | "italic" | "size">>,
): Pin => ({
  ...blank,
  kind: "type",
  rect: line.ink,
  text: lineText(line),
  ...type,
});

export const notText = (line: Line): Pin => ({
  ...blank,
  kind: "not-text",
  rect: line.ink,
  text: lineText(line),
});

/** The line is two: the second begins with its word number `word`. */
export function split(line: Line, word: number): Pin {
  const [a, b] = [line.words[word - 1]!, line.words[word]!];
  return {
    ...blank,
    kind: "split",
    rect: line.ink,
    text: lineText(line),
    x: (a.ink.x + a.ink.w + b.ink.x) / 2,
  };
}

export const merge = (a: Line, b: Line): Pin => ({
  ...blank,
  kind: "merge",
  rect: around(a.ink, b.ink),
  text: `${lineText(a)} ${lineText(b)}`,
});

/** The nearest line that goes on to the right of a line, on the same baseline or nearly, if there is one. */
export function following(lines: Line[], line: Line): Line | undefined {
  return lines
    .filter(
      (l) =>
        l !== line &&
        l.ink.x >= line.ink.x + line.ink.w - 1 &&
        Math.abs(l.baseline - line.baseline) <= 0.4 * line.x_height,
    )
    .sort((a, b) => a.ink.x - b.ink.x)[0];
}

/** Lines as one reads: top to bottom, then left to right; the numbers of `lines` in that order. */
export const readingOrder = (lines: Line[]): number[] =>
  lines
    .map((_, i) => i)
    .sort((a, b) => lines[a]!.baseline - lines[b]!.baseline || lines[a]!.ink.x - lines[b]!.ink.x);

export type RegionKind = "image" | "icon" | "surface" | "ignore";
export const region = (rect: Box, to: RegionKind): Pin => ({ ...blank, kind: "region", rect, to });

export const grid = (left: number, width: number, columns: number, gutter: number, height: number): Pin => ({
  ...blank,
  kind: "grid",
  rect: { x: left, y: 0, w: width, h: height },
  columns,
  gutter,
});

export const asset = (
  rect: Box,
  choice: { name: string; alt: string; format: string; quality: number },
): Pin => ({
  ...blank,
  kind: "asset",
  rect,
  name: choice.name,
  text: choice.alt,
  to: choice.format,
  quality: choice.quality,
});
