/** The parts of the written page: which one is chosen, which are open in the margin, and what the keys do. */
import { SvelteSet } from "svelte/reactivity";
import type { Part, Pin } from "$lib/api/client";
import * as outlines from "$lib/outline";
import type { Bench } from "./bench.svelte";

const same = (a: Part, b: Part) =>
  Math.abs(a.rect.x - b.rect.x) + Math.abs(a.rect.y - b.rect.y) + Math.abs(a.rect.w - b.rect.w) < 3 &&
  Math.abs(a.rect.h - b.rect.h) < 3;

export class PartDesk {
  readonly turned = new SvelteSet<number>();
  /** The part that the next one chosen is to be like. */
  liking = $state.raw<Part>();
  // a part keeps its place over a new build though its number may change: it is found again by where it lies
  #kept = $state.raw<Part>();
  readonly tree = $derived.by(() => outlines.treeOf(this.bench.outline.data?.parts ?? []));
  readonly chosen = $derived.by(() => {
    const { look, at } = this.bench;
    const kept = this.#kept;
    if (!kept) return look === "outline" || look === "code" ? outlines.partOf(this.tree, at) : undefined;
    const here = this.tree.parts.filter((p) => same(p, kept));
    return here.find((p) => p.tag === kept.tag) ?? here[0];
  });

  constructor(private bench: Bench) {}

  add = (pin: Pin) => this.bench.pins.mutate({ kind: "add", pin });

  forget() {
    this.#kept = undefined;
  }

  choose = (next: Part | undefined) => {
    if (this.liking && next && next !== this.liking) {
      this.add(outlines.like(this.liking, next));
      this.liking = undefined;
      return;
    }
    this.#kept = next;
    this.bench.show(this.bench.look === "code" ? "code" : "outline", next ? next.id : "none");
  };

  turn = (part: Part) => {
    if (!this.turned.delete(part.id)) this.turned.add(part.id);
  };

  keys(event: KeyboardEvent): boolean {
    if (!this.bench.outline.data) return false;
    const { tree, chosen } = this;
    const shown = outlines.visible(tree, chosen, this.turned);
    const at = chosen ? shown.indexOf(chosen) : -1;
    const next = chosen && outlines.beside(tree, chosen, 1);
    const before = chosen && outlines.beside(tree, chosen, -1);
    if (event.shiftKey && event.key === "ArrowUp" && chosen && before)
      this.add(outlines.order(chosen, "before", before));
    else if (event.shiftKey && event.key === "ArrowDown" && chosen && next)
      this.add(outlines.order(chosen, "after", next));
    else if (event.key === "ArrowDown") this.choose(shown[Math.min(at + 1, shown.length - 1)]);
    else if (event.key === "ArrowUp") this.choose(shown[Math.max(at - 1, 0)]);
    else if (event.key === "ArrowLeft" && chosen) this.choose(outlines.partOf(tree, chosen.parent) ?? chosen);
    else if (event.key === "ArrowRight" && chosen) this.choose(tree.children.get(chosen.id)?.[0] ?? chosen);
    else if (event.key === "Escape") {
      if (this.liking) this.liking = undefined;
      else this.choose(undefined);
    } else if (!chosen) return false;
    else if (event.key === "Enter") document.querySelector<HTMLSelectElement>("[data-role]")?.focus();
    else if (event.key === "r") document.querySelector<HTMLInputElement>("[data-rename]")?.select();
    else if (event.key === "k") this.liking = this.liking ? undefined : chosen;
    else if (event.key === "u" && tree.children.has(chosen.id)) this.add(outlines.unwrap(chosen));
    else if (event.key === "w" && next) this.add(outlines.wrap(chosen, next));
    else if (event.key === "j" && chosen.kind === "text" && next?.kind === "text")
      this.add(outlines.join(chosen, next));
    else return false;
    return true;
  }
}
