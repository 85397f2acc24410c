import type { Box } from "./api/client";
import type { Guide, Mark, Point } from "./layout";

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
}
