import { describe, expect, it } from "vitest";
import type { Part } from "../src/lib/api/client";
import {
  beside,
  columnLines,
  columnWidths,
  partAt,
  partOfLine,
  pathTo,
  residuals,
  rulesFor,
  spread,
  treeOf,
  visible,
  written,
} from "../src/lib/outline";

const part = (id: number, parent: number, depth: number, y: number, more: Partial<Part> = {}): Part => ({
  id,
  parent,
  depth,
  kind: "block",
  tag: "div",
  name: "",
  text: "",
  rect: { x: 0, y, w: 400, h: 100 - 10 * depth },
  drawn: null,
  classes: [],
  lines: [10 * id, 10 * id + 9],
  padding: [0, 0, 0, 0],
  columns: [],
  column_gap: 0,
  reasons: [],
  ...more,
});

const parts = [
  part(1, -1, 0, 0, { lines: [1, 50] }),
  part(2, 1, 1, 0, { lines: [2, 30] }),
  part(3, 2, 2, 0, { lines: [3, 20] }),
  part(4, 3, 3, 0, { lines: [4, 4] }),
  part(5, 1, 1, 60, { lines: [31, 49] }),
];
const tree = treeOf(parts);

describe("residuals", () => {
  it("are those of the innermost parts that were drawn, a text's by its middle", () => {
    const rect = { x: 10, y: 20, w: 100, h: 40 };
    const found = residuals([
      part(1, -1, 0, 0, { drawn: { x: 0, y: 9, w: 400, h: 100 } }),
      part(2, 1, 1, 0, { rect, drawn: { ...rect, x: 13, y: 24 } }),
      part(3, 1, 1, 0, { kind: "text", tag: "a", rect, drawn: { x: 0, y: 8, w: 300, h: 64 } }),
      part(4, 1, 1, 0, { rect }),
    ]);
    expect(found.map((m) => [m.id, m.dx, m.dy, m.off])).toEqual([
      [2, 3, 4, 5],
      [3, 0, 0, 0],
    ]);
  });
});

describe("the outline in the margin", () => {
  it("opens the upper parts and the way to the chosen one", () => {
    expect(visible(tree, undefined, new Set()).map((p) => p.id)).toEqual([1, 2, 3, 5]);
    expect(visible(tree, parts[3], new Set()).map((p) => p.id)).toEqual([1, 2, 3, 4, 5]);
    expect(visible(tree, undefined, new Set([2])).map((p) => p.id)).toEqual([1, 2, 5]);
    expect(visible(tree, undefined, new Set([3])).map((p) => p.id)).toEqual([1, 2, 3, 4, 5]);
  });

  it("knows what is around and beside a part", () => {
    expect(pathTo(tree, parts[3]).map((p) => p.id)).toEqual([1, 2, 3, 4]);
    expect(beside(tree, parts[1]!, 1)?.id).toBe(5);
    expect(beside(tree, parts[1]!, -1)).toBeUndefined();
  });

  it("keeps notes apart and never above where they belong", () => {
    expect(spread([0, 2, 50, 51], 17)).toEqual([0, 17, 50, 67]);
  });

  it("finds the smallest part at a point, and the innermost of a line of code", () => {
    expect(partAt(parts, 10, 20)?.id).toBe(4);
    expect(partAt(parts, 900, 20)).toBeUndefined();
    expect(partOfLine(parts, 4)?.id).toBe(4);
    expect(partOfLine(parts, 40)?.id).toBe(5);
    expect(partOfLine(parts, 99)).toBeUndefined();
  });
});

describe("the columns of a grid", () => {
  const grid = part(6, -1, 0, 0, {
    rect: { x: 50, y: 0, w: 500, h: 100 },
    padding: [0, 20, 0, 30],
    columns: [200, 100, 110],
    column_gap: 20,
  });

  it("have lines in the middle of their gaps", () => {
    expect(columnLines(grid)).toEqual([80, 290, 410, 530]);
  });

  it("come back from their lines", () => {
    expect(columnWidths(grid, columnLines(grid))).toEqual([200, 100, 110]);
  });
});

describe("the CSS of a part", () => {
  const css = ".card {\n  padding: 1rem;\n  margin-block-start: 2rem;\n}\n\n.card-row {\n  gap: 1rem;\n}\n";

  it("is found by its classes and by no longer name", () => {
    expect(rulesFor(css, ["card"])).toEqual([
      { selector: ".card", body: ["padding: 1rem;", "margin-block-start: 2rem;"] },
    ]);
  });

  it("says what places it, or that the flow does", () => {
    const rules = rulesFor(css, ["card"]);
    expect(written(rules, "y")).toBe("2rem");
    expect(written(rules, "x")).toBe("by flow");
  });
});
