/** The ways of looking at the stage, in the order of their keys. */
export const LOOKS = [
  { id: "picture", label: "Picture", key: "1", hint: "what was brought in" },
  { id: "read", label: "Text", key: "2", hint: "every line that was read, to look at and to correct" },
  {
    id: "layout",
    label: "Layout",
    key: "3",
    hint: "panels, pictures, grid and distances, with tools to measure",
  },
  { id: "type", label: "Type", key: "4", hint: "the page's text styles" },
  { id: "cutouts", label: "Cut-outs", key: "5", hint: "the page's pictures and icons, and their files" },
  {
    id: "outline",
    label: "Outline",
    key: "o",
    hint: "the parts of the page, what they are, and how they were written",
  },
  { id: "page", label: "Page", key: "6", hint: "what the browser drew" },
  { id: "seam", label: "Seam", key: "7", hint: "picture left of the seam, page right of it" },
  { id: "pair", label: "Pair", key: "s", hint: "picture and page side by side" },
  { id: "veil", label: "Veil", key: "8", hint: "the page laid over the picture" },
  { id: "blink", label: "Blink", key: "b", hint: "picture and page in turn" },
  { id: "difference", label: "Difference", key: "9", hint: "where they disagree" },
  { id: "live", label: "Live page", key: "l", hint: "the written page at any width" },
  { id: "code", label: "Code", key: "h", hint: "the HTML and CSS" },
  { id: "history", label: "History", key: "y", hint: "every page before this one, and pages of yours" },
] as const;

export type Look = (typeof LOOKS)[number]["id"];

export const isLook = (value: string | undefined): value is Look => LOOKS.some((l) => l.id === value);

/** Zoom steps double every other step; `by` is +1 or -1. */
export const ZOOMS = [0.1, 0.25, 0.5, 0.75, 1, 1.5, 2, 3, 4, 6, 8] as const;

export function stepZoom(zoom: number, by: 1 | -1): number {
  if (by > 0) return ZOOMS.find((z) => z > zoom * 1.01) ?? ZOOMS[ZOOMS.length - 1]!;
  return [...ZOOMS].reverse().find((z) => z < zoom * 0.99) ?? ZOOMS[0];
}

/** Scroll offset that keeps the point under `anchor` (px from the view's edge) where it is when the zoom changes. */
export function keepAnchor(scroll: number, anchor: number, before: number, after: number): number {
  return Math.max(0, ((scroll + anchor) * after) / before - anchor);
}

/** True where keys are text: in a field, a list of choices or an editor. */
export function isTyping(event: Event): boolean {
  const target = event.target as HTMLElement;
  return /^(INPUT|TEXTAREA|SELECT)$/.test(target.tagName) || target.isContentEditable;
}
