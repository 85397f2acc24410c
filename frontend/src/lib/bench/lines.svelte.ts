/** The lines that were read: which one is chosen, and what its keys do. */
import { following, merge, notText, readingOrder } from "$lib/pins";
import type { Bench } from "./bench.svelte";

export class LineDesk {
  constructor(private bench: Bench) {}

  get chosen(): number | undefined {
    const { at, reading } = this.bench;
    return Number.isNaN(at) || !reading.data?.lines[at] ? undefined : at;
  }

  choose = (next: number | undefined) => this.bench.show("read", next);

  private walk(by: 1 | -1) {
    const order = readingOrder(this.bench.reading.data?.lines ?? []);
    if (!order.length) return;
    const first = by > 0 ? 0 : order.length - 1;
    const next =
      this.chosen === undefined ? first : (order.indexOf(this.chosen) + by + order.length) % order.length;
    this.choose(order[next]);
  }

  keys(event: KeyboardEvent): boolean {
    const lines = this.bench.reading.data?.lines;
    if (!lines) return false;
    const current = this.chosen === undefined ? undefined : lines[this.chosen];
    if (event.key === "ArrowDown") this.walk(1);
    else if (event.key === "ArrowUp") this.walk(-1);
    else if (event.key === "Escape") this.choose(undefined);
    else if (!current) return false;
    else if (event.key === "Enter") document.querySelector<HTMLInputElement>("[data-retype]")?.select();
    else if (event.key === "x") this.bench.pins.mutate({ kind: "add", pin: notText(current) });
    else if (event.key === "m") {
      const next = following(lines, current);
      if (next) this.bench.pins.mutate({ kind: "add", pin: merge(current, next) });
    } else return false;
    return true;
  }
}
