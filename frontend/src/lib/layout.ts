import type { Box, Reading, Shadow, Surface } from "./api/client";

export type Axis = "x" | "y";
export type Point = { x: number; y: number };
export type Guide = { axis: Axis; at: number };
export type Mark = { kind: "surface" | "picture" | "rule" | "text"; index: number; rect: Box };

/** Everything that has a box, the text lines last. */
export function marksOf(reading: Reading): Mark[] {
  return [
    ...reading.surfaces.map((s, index) => ({ kind: "surface" as const, index, rect: s.rect })),
    ...reading.cutouts.map((c, index) => ({ kind: "picture" as const, index, rect: c.rect })),
    ...reading.rules.map((r, index) => ({ kind: "rule" as const, index, rect: r.rect })),
    ...reading.lines.map((l, index) => ({ kind: "text" as const, index, rect: l.box })),
  ];
}

/** A surface's shadows by name, the uppermost first. */
export function shadowsOf(surface: Surface): [string, Shadow][] {
  const cast: Shadow[] = [];
  for (let s = surface.shadow; s; s = s.under ?? null) cast.push(s);
  const named = cast.map((s, i): [string, Shadow] => [i ? `shadow ${i + 1}` : "shadow", s]);
  return surface.inner ? [...named, ["inner shadow", surface.inner]] : named;
}

export const contains = (r: Box, p: Point): boolean =>
  p.x >= r.x && p.x <= r.x + r.w && p.y >= r.y && p.y <= r.y + r.h;

/** The smallest mark under a point. */
export function markAt(marks: Mark[], p: Point): Mark | undefined {
  return marks
    .filter((m) => contains(m.rect, p))
    .sort((a, b) => a.rect.w * a.rect.h - b.rect.w * b.rect.h)[0];
}

/** Where marks begin and end along an axis, sorted. */
export function edgesOf(marks: Mark[], axis: Axis): number[] {
  const all = marks.flatMap(({ rect: r }) => (axis === "x" ? [r.x, r.x + r.w] : [r.y, r.y + r.h]));
  return [...new Set(all)].sort((a, b) => a - b);
}

/** The nearest edge within reach, or the value itself in whole px. */
export function snap(edges: number[], value: number, reach: number): number {
  let best = Math.round(value);
  let off = reach;
  for (const e of edges) {
    const d = Math.abs(e - value);
    if (d <= off) [best, off] = [e, d];
  }
  return best;
}

export type Distance = { axis: Axis; from: number; to: number; across: number; size: number };

/** The free distances from a mark to what is next to it (or to what holds it) on its four sides. */
export function distancesAround(
  marks: Mark[],
  mark: Mark,
  page: { width: number; height: number },
): Distance[] {
  const r = mark.rect;
  const [right, bottom] = [r.x + r.w, r.y + r.h];
  const others = marks.filter((m) => m !== mark).map((m) => m.rect);
  const around = [...others.filter((o) => holds(o, r)), { x: 0, y: 0, w: page.width, h: page.height }];
  const beside = others.filter((o) => !holds(o, r) && o.y < bottom - 1 && o.y + o.h > r.y + 1);
  const over = others.filter((o) => !holds(o, r) && o.x < right - 1 && o.x + o.w > r.x + 1);
  const left = Math.max(
    ...beside.filter((o) => o.x + o.w <= r.x + 0.5).map((o) => o.x + o.w),
    ...around.map((o) => o.x),
  );
  const end = Math.min(
    ...beside.filter((o) => o.x >= right - 0.5).map((o) => o.x),
    ...around.map((o) => o.x + o.w),
  );
  const top = Math.max(
    ...over.filter((o) => o.y + o.h <= r.y + 0.5).map((o) => o.y + o.h),
    ...around.map((o) => o.y),
  );
  const under = Math.min(
    ...over.filter((o) => o.y >= bottom - 0.5).map((o) => o.y),
    ...around.map((o) => o.y + o.h),
  );
  const [cx, cy] = [r.x + r.w / 2, r.y + r.h / 2];
  return [
    { axis: "x" as const, from: left, to: r.x, across: cy, size: r.x - left },
    { axis: "x" as const, from: right, to: end, across: cy, size: end - right },
    { axis: "y" as const, from: top, to: r.y, across: cx, size: r.y - top },
    { axis: "y" as const, from: bottom, to: under, across: cx, size: under - bottom },
  ].filter((d) => d.size > 0.4);
}

const holds = (o: Box, r: Box): boolean =>
  o.x <= r.x + 0.5 &&
  o.y <= r.y + 0.5 &&
  o.x + o.w >= r.x + r.w - 0.5 &&
  o.y + o.h >= r.y + r.h - 0.5 &&
  o.w * o.h > r.w * r.h;

/** A length with at most `digits` decimals and no zeros at its end. */
export const trimmed = (v: number, digits = 2): string => String(Number(v.toFixed(digits)));

/** A length in px, rem and as a share of the container. */
export function inUnits(px: number, base: number, container: number): [string, string, string] {
  return [`${trimmed(px)} px`, `${trimmed(px / base, 4)} rem`, `${trimmed((100 * px) / container, 2)} %`];
}

const linear = (c: number): number => (c <= 0.04045 ? c / 12.92 : ((c + 0.055) / 1.055) ** 2.4);
export const channels = (hex: string): [number, number, number] => [
  parseInt(hex.slice(1, 3), 16),
  parseInt(hex.slice(3, 5), 16),
  parseInt(hex.slice(5, 7), 16),
];
export const toHex = (r: number, g: number, b: number): string =>
  "#" + [r, g, b].map((v) => v.toString(16).padStart(2, "0")).join("");

/** Relative luminance, WCAG 2.2. */
export function luminance(hex: string): number {
  const [r, g, b] = channels(hex).map((v) => linear(v / 255)) as [number, number, number];
  return 0.2126 * r + 0.7152 * g + 0.0722 * b;
}

/** Contrast ratio, WCAG 2.2: 1..21. */
export function contrast(a: string, b: string): number {
  const [hi, lo] = [luminance(a), luminance(b)].sort((x, y) => y - x) as [number, number];
  return (hi + 0.05) / (lo + 0.05);
}

/** Distance in OKLab (Ottosson 2020); 0.02 is about where one begins to see it. */
export function apart(a: string, b: string): number {
  const lab = (hex: string) => {
    const [r, g, b] = channels(hex).map((v) => linear(v / 255)) as [number, number, number];
    const l = Math.cbrt(0.4122214708 * r + 0.5363325363 * g + 0.0514459929 * b);
    const m = Math.cbrt(0.2119034982 * r + 0.6806995451 * g + 0.1073969566 * b);
    const s = Math.cbrt(0.0883024619 * r + 0.2817188376 * g + 0.6299787005 * b);
    return [
      0.2104542553 * l + 0.793617785 * m - 0.0040720468 * s,
      1.9779984951 * l - 2.428592205 * m + 0.4505937099 * s,
      0.0259040371 * l + 0.7827717662 * m - 0.808675766 * s,
    ];
  };
  const [p, q] = [lab(a), lab(b)];
  return Math.hypot(...p.map((v, i) => v - q[i]!));
}

/** What is painted at a point, as it was meant: an ink where there is text, else the fill of the panel that is on top. */
export function paintAt(reading: Reading, p: Point): { what: string; colour: string; ground: string } {
  const panels = reading.surfaces
    .filter((s) => contains(s.rect, p))
    .sort((a, b) => a.rect.w * a.rect.h - b.rect.w * b.rect.h);
  const fill = panels[0]?.fill.colour ?? reading.background.colour;
  const below = panels[1]?.fill.colour ?? reading.background.colour;
  const line = reading.lines.find((l) => contains(l.ink, p));
  if (line) {
    const word = line.words.find((w) => contains(w.ink, p)) ?? line.words[0]!;
    return { what: "ink", colour: reading.styles[word.style]!.colour, ground: line.ground };
  }
  return { what: panels.length ? "fill" : "page", colour: fill, ground: below };
}

/** Ruler ticks: a step that leaves at least 56 px on the screen between labels, and its tenth (or fifth). */
export function ticks(scale: number): { step: number; minor: number } {
  const step = [5, 10, 20, 50, 100, 200, 500, 1000, 2000].find((s) => s * scale >= 56) ?? 5000;
  return { step, minor: step >= 50 ? step / 10 : step / 5 };
}
