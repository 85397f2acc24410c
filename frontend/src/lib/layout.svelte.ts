import type { Box } from "./api/client";
import { edgesOf, snap, type Guide, type Mark, type Point } from "./layout";

export type Tool = "choose" | "measure" | "colour" | "place";
export const TOOLS: { id: Tool; label: string; key: string; hint: string }[] = [
  { id: "choose", label: "Choose", key: "s", hint: "a panel, picture or line, and the distances around it" },
  { id: "measure", label: "Measure", key: "m", hint: "from any edge or point to any other" },
  { id: "colour", label: "Colour", key: "c", hint: "the true fill or ink under the cursor" },
  { id: "place", label: "Tell", key: "t", hint: "draw a place and tell what it is" },
];
export const LAYERS = [
  { id: "panels", label: "Panels", key: "p" },
  { id: "pictures", label: "Pictures", key: "i" },
  { id: "grid", label: "Grid", key: "g" },
  { id: "spacing", label: "Spacing", key: "d" },
  { id: "open", label: "Unexplained", key: "u" },
] as const;
export type Layer = (typeof LAYERS)[number]["id"];

/** What is shown and done on the layout look. One for a bench; guides are kept for each project in this browser. */
export class LayoutDesk {
  tool = $state<Tool>("choose");
  layers = $state<Record<Layer, boolean>>({
    panels: true,
    pictures: true,
    grid: true,
    spacing: false,
    open: false,
  });
  chosen = $state<Mark>();
  guides = $state<Guide[]>([]);
  from = $state<Point>(); // of a measurement or a drawn place
  to = $state<Point>();
  cursor = $state<Point>();
  base = $state(16); // px of one rem
  #key = "";

  open(project: string) {
    this.#key = `neige.guides.${project}`;
    try {
      this.guides = JSON.parse(localStorage.getItem(this.#key) ?? "[]") as Guide[];
    } catch {
      this.guides = [];
    }
    this.clear();
  }

  keep(guides: Guide[]) {
    this.guides = guides;
    try {
      localStorage.setItem(this.#key, JSON.stringify(guides));
    } catch {
      // a full or forbidden store loses guides on reload, nothing else
    }
  }

  use(tool: Tool) {
    this.tool = tool;
    this.from = this.to = undefined;
  }

  clear() {
    this.chosen = this.from = this.to = undefined;
  }

  /** The box between the two points. */
  get box(): Box | undefined {
    if (!this.from || !this.to) return undefined;
    const x = Math.min(this.from.x, this.to.x);
    const y = Math.min(this.from.y, this.to.y);
    return { x, y, w: Math.abs(this.from.x - this.to.x), h: Math.abs(this.from.y - this.to.y) };
  }

  /** The tools and layers by their letters; arrows move the cross, Enter sets an end of a measurement. False: no key of these. */
  keys(event: KeyboardEvent, marks: Mark[], width: number): boolean {
    const tool = TOOLS.find((t) => t.key === event.key);
    const layer = LAYERS.find((l) => l.key === event.key);
    const by = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[event.key];
    if (tool) this.use(tool.id);
    else if (layer) this.layers[layer.id] = !this.layers[layer.id];
    else if (event.key === "Escape") this.clear();
    else if (by && this.tool === "choose") {
      const solid = marks.filter((m) => m.kind !== "text");
      const at = solid.findIndex((m) => m.kind === this.chosen?.kind && m.index === this.chosen.index);
      const step = by[0]! + by[1]!;
      this.chosen = solid[at < 0 ? 0 : (at + step + solid.length) % solid.length];
    } else if (by) {
      const k = event.shiftKey ? 10 : 1;
      const c = this.cursor ?? { x: width / 2, y: 100 };
      this.cursor = { x: Math.round(c.x + k * by[0]!), y: Math.round(c.y + k * by[1]!) };
      if (this.from && this.tool !== "colour") this.to = this.cursor;
    } else if (event.key === "Enter" && this.cursor && this.tool !== "choose" && this.tool !== "colour") {
      const p = {
        x: snap(edgesOf(marks, "x"), this.cursor.x, 3),
        y: snap(edgesOf(marks, "y"), this.cursor.y, 3),
      };
      if (this.from && this.from === this.to) this.to = p;
      else this.from = this.to = p;
    } else return false;
    return true;
  }
}
