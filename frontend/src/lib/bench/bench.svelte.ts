/** What the bench shows: a project, the build in use, what was read and written of it, and the step that is looked at. */
import type { Box, Finding } from "$lib/api/client";
import { marksOf } from "$lib/layout";
import { LayoutDesk } from "$lib/layout.svelte";
import { isLook, isTyping, LOOKS, type Look } from "$lib/looks";
import { readAgain, roomy } from "$lib/pins";
import {
  buildAgainMutation,
  cancelMutation,
  outlineQuery,
  pinMutation,
  projectQuery,
  readingQuery,
} from "$lib/queries";
import { navigate, route } from "../../router";
import { LineDesk } from "./lines.svelte";
import { PartDesk } from "./parts.svelte";
import { VersionDesk } from "./versions.svelte";

const READS: Look[] = ["read", "layout", "type", "cutouts"];
const PARTS: Look[] = ["outline", "code", "difference"];

/** One for a bench, made while it is set up: its queries belong to the component. */
export class Bench {
  readonly project = projectQuery(() => this.id);
  readonly pins = pinMutation(() => this.id);
  readonly again = buildAgainMutation();
  readonly cancel = cancelMutation();
  readonly reading = readingQuery(() =>
    this.done && READS.includes(this.look) ? this.build?.id : undefined,
  );
  readonly outline = outlineQuery(() =>
    this.done && PARTS.includes(this.look) ? this.build?.id : undefined,
  );
  readonly layout = new LayoutDesk();
  readonly lines = new LineDesk(this);
  readonly parts = new PartDesk(this);
  readonly versions = new VersionDesk(this);
  chosen = $state.raw<Finding>();

  get id(): string {
    return route.params.id ?? "";
  }
  get look(): Look {
    return isLook(route.params.look) ? route.params.look : "seam";
  }
  /** The number of the line or part that the address names. */
  get at(): number {
    return Number.parseInt(route.params.part ?? "", 10);
  }
  get latest() {
    return this.project.data?.build;
  }
  /** The last finished build stays in use while another is under way. */
  get build() {
    return this.project.data?.shown ?? this.latest;
  }
  get done(): boolean {
    return this.build?.state === "done";
  }
  get reads(): boolean {
    return READS.includes(this.look);
  }
  readonly marks = $derived(this.reading.data ? marksOf(this.reading.data) : []);

  show(look: Look, part?: number | "none", replace = true) {
    const params = { id: this.id, look };
    if (part === undefined) void navigate("/projects/:id/:look", { params, replace });
    else void navigate("/projects/:id/:look/:part", { params: { ...params, part: `${part}` }, replace });
  }

  /** Another look; what was chosen in the outline is chosen in the code too. */
  turn(look: Look) {
    const part = look === "outline" || look === "code" ? this.parts.chosen?.id : undefined;
    this.show(look, part);
  }

  /** Read the text of a place anew: enlarged, or from a close-up picture of it. */
  reread(rect: Box, file?: File) {
    const place = roomy(rect);
    this.pins.mutate(file ? { kind: "close-up", rect: place, file } : { kind: "add", pin: readAgain(place) });
  }

  /** The part that a finding is about, in the outline. */
  fix(finding: Finding) {
    this.parts.forget();
    this.show("outline", finding.node, false);
  }

  keys = (event: KeyboardEvent) => {
    const typing = isTyping(event);
    if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === "z" && !typing) {
      const kind = event.shiftKey ? "redo" : "undo";
      if (this.project.data?.[kind] != null) this.pins.mutate({ kind });
      event.preventDefault();
      return;
    }
    if (event.ctrlKey || event.metaKey || event.altKey || typing) return;
    if (this.stepKeys(event)) event.preventDefault();
    else {
      const found = LOOKS.find((l) => l.key === event.key);
      if (found && this.done) this.turn(found.id);
    }
  };

  /** Keys of the step that is looked at; false: it has no use for one. */
  private stepKeys(event: KeyboardEvent): boolean {
    if (this.look === "read") return this.lines.keys(event);
    if (this.look === "layout")
      return !!this.reading.data && this.layout.keys(event, this.marks, this.reading.data.width);
    if (this.look === "outline") return this.parts.keys(event);
    if (this.look === "history") return this.versions.keys(event);
    return false;
  }
}
