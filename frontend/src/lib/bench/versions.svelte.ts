/** What a project has been: which of its builds is looked at, and beside what. */
import type { Version } from "$lib/api/client";
import { historyQuery } from "$lib/queries";
import type { Bench } from "./bench.svelte";

export class VersionDesk {
  against = $state<"page" | "picture" | "difference">("picture");
  #id = $state<string>();
  readonly history: ReturnType<typeof historyQuery>;

  constructor(private bench: Bench) {
    this.history = historyQuery(() => (bench.look === "history" ? bench.id : undefined));
  }

  get all(): Version[] {
    return this.history.data?.versions ?? [];
  }
  get chosen(): Version | undefined {
    return this.all.find((v) => v.id === this.#id) ?? this.all.find((v) => v.present);
  }

  choose = (next: Version) => {
    this.#id = next.id;
    this.bench.chosen = undefined;
    // an earlier page is looked at beside the one in use, one brought beside the picture
    if (next.kind === "brought" || next.id === this.bench.build?.id) this.against = "picture";
    else if (this.against === "picture") this.against = "page";
  };

  forget = () => {
    this.#id = undefined;
    this.bench.chosen = undefined;
  };

  keys(event: KeyboardEvent): boolean {
    const by = { ArrowUp: -1, ArrowDown: 1 }[event.key];
    if (!by || !this.chosen) return false;
    const next = this.all[this.all.indexOf(this.chosen) + by];
    if (next) this.choose(next);
    return true;
  }
}
