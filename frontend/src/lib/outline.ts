/** The outline as a margin shows it: which parts are open, where their notes stand, and who stands beside whom. */
import type { Box, Part, Pin } from "./api/client";
import { around, blank } from "./pins";

export type Tree = {
  parts: Part[];
  at: Map<number, number>; // place in `parts` by id
  children: Map<number, Part[]>; // by the parent's id
};

export function treeOf(parts: Part[]): Tree {
  const children = new Map<number, Part[]>();
  for (const p of parts) children.set(p.parent, [...(children.get(p.parent) ?? []), p]);
  return { parts, at: new Map(parts.map((p, i) => [p.id, i])), children };
}

export const partOf = (tree: Tree, id: number | undefined): Part | undefined =>
  id === undefined ? undefined : tree.parts[tree.at.get(id) ?? -1];

export function pathTo(tree: Tree, part: Part | undefined): Part[] {
  const out: Part[] = [];
  for (let p = part; p; p = partOf(tree, p.parent)) out.unshift(p);
  return out;
}

export const siblings = (tree: Tree, part: Part): Part[] => tree.children.get(part.parent) ?? [];

/** The part before (-1) or after (1) another among its siblings. */
export function beside(tree: Tree, part: Part, by: 1 | -1): Part | undefined {
  const row = siblings(tree, part);
  return row[row.indexOf(part) + by];
}

const OPEN_DEPTH = 2; // parts above this depth show what is in them from the start

/** The parts that are shown: those whose parents are all open. `turned` are the ones opened or closed by hand. */
export function visible(tree: Tree, chosen: Part | undefined, turned: ReadonlySet<number>): Part[] {
  const path = new Set(pathTo(tree, chosen).map((p) => p.id));
  const out: Part[] = [];
  const visit = (parent: number) => {
    for (const p of tree.children.get(parent) ?? []) {
      out.push(p);
      if (isOpen(p, path, turned)) visit(p.id);
    }
  };
  visit(-1);
  return out;
}

export const isOpen = (p: Part, path: ReadonlySet<number>, turned: ReadonlySet<number>): boolean =>
  turned.has(p.id) ? p.depth >= OPEN_DEPTH && !path.has(p.id) : path.has(p.id) || p.depth < OPEN_DEPTH;

/** Where notes stand that want to be at `wanted`, in order, none nearer than `least` to the one before. */
export function spread(wanted: number[], least: number): number[] {
  const out: number[] = [];
  for (const y of wanted) out.push(Math.max(y, (out.at(-1) ?? -Infinity) + least));
  return out;
}

/** The smallest part at a point. */
export function partAt(parts: Part[], x: number, y: number): Part | undefined {
  const hit = parts.filter(
    ({ rect: r }) => x >= r.x && x <= r.x + r.w && y >= r.y && y <= r.y + Math.max(r.h, 3),
  );
  return hit.sort((a, b) => a.rect.w * a.rect.h - b.rect.w * b.rect.h || b.depth - a.depth)[0];
}

/** The innermost part that a line of index.html is about. */
export function partOfLine(parts: Part[], line: number): Part | undefined {
  const hit = parts.filter((p) => p.lines[0] <= line && line <= p.lines[1]);
  return hit.sort((a, b) => a.lines[1] - a.lines[0] - (b.lines[1] - b.lines[0]) || b.depth - a.depth)[0];
}

export type Residual = { id: number; x: number; y: number; dx: number; dy: number; off: number };

/** How far off the innermost parts were drawn, px. A text's box is as wide as its block, and a link's reaches up and down to be hit:
 * the middle of its height says where it stands. */
export function residuals(parts: Part[]): Residual[] {
  const holders = new Set(parts.map((p) => p.parent));
  return parts.flatMap((p) => {
    if (!p.drawn || holders.has(p.id)) return [];
    const dx = p.kind === "text" ? 0 : p.drawn.x - p.rect.x;
    const dy = p.kind === "text" ? p.drawn.y + p.drawn.h / 2 - p.rect.y - p.rect.h / 2 : p.drawn.y - p.rect.y;
    return [{ id: p.id, x: p.rect.x, y: p.rect.y + p.rect.h / 2, dx, dy, off: Math.hypot(dx, dy) }];
  });
}

const about = (part: Part) => ({ ...blank, rect: part.rect, text: part.text, was: part.tag });

export const role = (part: Part, to: string): Pin => ({ ...about(part), kind: "role", to });
export const rename = (part: Part, name: string): Pin => ({ ...about(part), kind: "rename", name });
export const like = (part: Part, model: Part): Pin => ({ ...about(part), kind: "like", like: model.rect });
export const unwrap = (part: Part): Pin => ({ ...about(part), kind: "unwrap" });
export const wrap = (a: Part, b: Part): Pin => ({ ...about(a), kind: "wrap", rect: around(a.rect, b.rect) });
export const join = (a: Part, b: Part): Pin => ({ ...about(a), kind: "join", rect: around(a.rect, b.rect) });
/** The text is two; the second begins below `y`. */
export const divide = (part: Part, y: number): Pin => ({ ...about(part), kind: "divide", x: y });
export const order = (part: Part, to: "before" | "after", other: Part): Pin => ({
  ...about(part),
  kind: "order",
  to,
  like: other.rect,
});
export const shares = (part: Part, shares: number[]): Pin => ({ ...about(part), kind: "shares", shares });

/** The lines between a grid's columns, in the middle of its gaps: the x of each, and of its two ends. */
export function columnLines(part: Part): number[] {
  let x = part.rect.x + part.padding[3];
  const out = [x];
  part.columns.forEach((c, i) => {
    x += Math.abs(c) + (i < part.columns.length - 1 ? part.column_gap : 0);
    out.push(i < part.columns.length - 1 ? x - part.column_gap / 2 : x);
  });
  return out;
}

/** The widths of the columns between such lines. */
export const columnWidths = (part: Part, lines: number[]): number[] =>
  lines.slice(1).map((x, i) => {
    const gaps = (i > 0 ? 0.5 : 0) + (i < lines.length - 2 ? 0.5 : 0);
    return Math.max(1, Math.round(10 * (x - lines[i]! - gaps * part.column_gap)) / 10);
  });

/** The declarations of a CSS text for each of a page's classes, small screens left out; in the order of the rules. */
export function rulesFor(css: string, classes: string[]): { selector: string; body: string[] }[] {
  const out: { selector: string; body: string[] }[] = [];
  for (const found of css.matchAll(/^([.\w][^{}@]*?)\s*\{\n([^{}]*)\n?\}/gm)) {
    const selector = found[1]!.trim();
    const named = selector.split(",").some((s) => classes.some((c) => s.trim() === `.${c}`));
    if (named)
      out.push({
        selector,
        body: found[2]!
          .split("\n")
          .map((l) => l.trim())
          .filter(Boolean),
      });
  }
  return out;
}

/** What the CSS says about one face of a part, or that it follows from the flow. */
export function written(rules: { body: string[] }[], face: "x" | "y" | "width" | "height"): string {
  const names = {
    x: ["margin-inline", "margin-inline-start"],
    y: ["margin-block-start", "margin-block"],
    width: ["inline-size", "max-inline-size", "flex", "grid-template-columns"],
    height: ["block-size", "min-block-size"],
  }[face];
  for (const rule of rules)
    for (const line of rule.body) {
      const [name, value] = [line.slice(0, line.indexOf(":")), line.slice(line.indexOf(":") + 1)];
      if (names.includes(name.trim())) return value.trim().replace(/;$/, "");
    }
  return "by flow";
}

export const grown = (r: Box, by: number): Box => ({
  x: r.x - by,
  y: r.y - by,
  w: r.w + 2 * by,
  h: r.h + 2 * by,
});
