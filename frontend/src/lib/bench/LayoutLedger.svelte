<script lang="ts">
  import type { Project, Reading } from "../api/client";
  import { apart, contrast, distancesAround, inUnits, marksOf, paintAt, shadowsOf, trimmed } from "../layout";
  import type { LayoutDesk } from "../layout.svelte";
  import { grid as gridPin, readAgain, region, type RegionKind } from "../pins";
  import { coverageQuery, type PinChange } from "../queries";
  import Loupe from "./Loupe.svelte";
  import PinList from "./PinList.svelte";

  let {
    reading,
    build,
    project,
    desk,
    onchange,
  }: {
    reading: Reading;
    build: string;
    project: Project;
    desk: LayoutDesk;
    onchange: (change: PinChange) => void;
  } = $props();

  const KINDS: { id: RegionKind; label: string; key: string }[] = [
    { id: "image", label: "One picture", key: "i" },
    { id: "icon", label: "An icon", key: "n" },
    { id: "surface", label: "A panel", key: "p" },
    { id: "ignore", label: "Nothing of interest", key: "x" },
  ];
  const coverage = coverageQuery(() => (desk.layers.open ? build : undefined));
  const marks = $derived(marksOf(reading));
  const container = $derived(reading.grid?.width ?? reading.width);
  const chosen = $derived(desk.chosen);
  const surface = $derived(chosen?.kind === "surface" ? reading.surfaces[chosen.index] : undefined);
  const picture = $derived(chosen?.kind === "picture" ? reading.cutouts[chosen.index] : undefined);
  const around = $derived(chosen ? distancesAround(marks, chosen, reading) : []);
  const box = $derived(desk.box);
  const paint = $derived(desk.tool === "colour" && desk.cursor ? paintAt(reading, desk.cursor) : undefined);
  const nearest = $derived(
    paint
      ? [...reading.palette].sort((a, b) => apart(a.colour, paint.colour) - apart(b.colour, paint.colour))[0]
      : undefined,
  );
  /** The columns that a mark begins and ends with, where it does. */
  const columns = $derived.by(() => {
    const g = reading.grid;
    if (!g || !chosen) return "";
    const starts = Array.from({ length: g.columns }, (_, i) => g.margin + i * (g.column + g.gutter));
    const first = starts.findIndex((x) => Math.abs(x - chosen.rect.x) <= 1) + 1;
    const last = starts.findIndex((x) => Math.abs(x + g.column - chosen.rect.x - chosen.rect.w) <= 1) + 1;
    if (first && last) return first === last ? `column ${first}` : `columns ${first} to ${last}`;
    return first ? `from column ${first}` : last ? `to column ${last}` : "";
  });
  const pinned = $derived(project.pins.some((p) => p.kind === "grid"));
  let draft = $derived({
    columns: reading.grid?.columns ?? 12,
    gutter: reading.grid?.gutter ?? 24,
    left: reading.grid?.margin ?? 0,
    width: reading.grid?.width ?? reading.width,
  });

  function tell(to: RegionKind) {
    if (box && box.w >= 2 && box.h >= 2) {
      onchange({ kind: "add", pin: region(box, to) });
      desk.from = desk.to = undefined;
    }
  }
  /** Read the text of the drawn place anew, enlarged. */
  function readText() {
    if (box && box.w >= 4 && box.h >= 4) {
      onchange({ kind: "add", pin: readAgain(box) });
      desk.from = desk.to = undefined;
    }
  }
  function keys(event: KeyboardEvent) {
    if (desk.tool === "place" && box && event.key === "r" && !event.ctrlKey && !event.metaKey) {
      readText();
      event.preventDefault();
      event.stopImmediatePropagation();
      return;
    }
    if (desk.tool !== "place" || !box || event.ctrlKey || event.metaKey) return;
    const found = KINDS.find((k) => k.key === event.key);
    if (found) {
      tell(found.id);
      event.preventDefault();
      event.stopImmediatePropagation();
    }
  }
  const sides = ["top", "right", "bottom", "left"];
  const px = (v: number) => `${trimmed(v)} px`;
</script>

<svelte:window onkeydowncapture={keys} />

{#snippet row(name: string, seen: string, other = "")}
  <tr class="border-b border-drift align-baseline">
    <th scope="row" class="py-1 pr-2 text-left font-normal whitespace-nowrap text-ash">{name}</th>
    <td class="py-1 text-right font-semibold whitespace-nowrap">{seen}</td>
    <td class="py-1 pl-2 text-right text-sm text-ash">{other}</td>
  </tr>
{/snippet}
{#snippet swatch(colour: string)}
  <span class="mr-1 inline-block size-3 border border-drift align-[-1px]" style:background={colour}></span>
{/snippet}

<aside class="min-h-0 overflow-auto border-l border-drift bg-paper px-5 py-4" aria-label="Ledger">
  {#if desk.tool === "measure"}
    <h2 class="font-semibold">Measured</h2>
    {#if box}
      <table class="mt-2 w-full">
        <tbody>
          {#each [["across", box.w], ["down", box.h], ["straight", Math.hypot(box.w, box.h)]] as const as [name, v] (name)}
            {@const [a, b, c] = inUnits(v, desk.base, container)}
            {@render row(name, a, `${b}, ${c}`)}
          {/each}
          {@render row("from", `${trimmed(desk.from!.x)}, ${trimmed(desk.from!.y)}`)}
          {@render row("to", `${trimmed(desk.to!.x)}, ${trimmed(desk.to!.y)}`)}
        </tbody>
      </table>
      <p class="mt-1 text-sm text-ash">
        shares are of {reading.grid ? "the grid's" : "the page's"}
        {px(container)}
      </p>
    {:else}
      <p class="mt-1 text-ash">
        Pull from one point to another; edges, lines of text and guides draw the ends to them. By key: arrows
        move the cross, Enter sets an end.
      </p>
    {/if}
    <label class="mt-3 flex items-center gap-2">
      <span class="text-ash">1 rem is</span>
      <input
        type="number"
        min="1"
        max="100"
        step="0.5"
        class="w-20 border border-drift bg-snow px-2 py-0.5"
        bind:value={desk.base}
      /> px
    </label>
  {:else if desk.tool === "colour"}
    <h2 class="font-semibold">Colour</h2>
    {#if paint && desk.cursor}
      <Loupe {build} at={desk.cursor} scale={reading.scale} />
      <table class="mt-3 w-full">
        <tbody>
          {@render row(`true ${paint.what}`, paint.colour)}
          {#if nearest}
            {@render row(
              "in the palette",
              nearest.colour,
              `${nearest.name}${apart(nearest.colour, paint.colour) < 0.005 ? "" : `, ${trimmed(apart(nearest.colour, paint.colour), 3)} off`}`,
            )}
          {/if}
          {@render row("on", paint.ground, `${trimmed(contrast(paint.colour, paint.ground))} : 1`)}
        </tbody>
      </table>
      <button
        class="mt-2 border border-drift px-2 py-1 hover:border-ink"
        onclick={() => void navigator.clipboard?.writeText(paint.colour)}>Copy {paint.colour}</button
      >
    {:else}
      <p class="mt-1 text-ash">
        Move over the picture. The colour is the fill or ink as it was meant, not the mixture at an edge.
      </p>
    {/if}
  {:else if desk.tool === "place"}
    <h2 class="font-semibold">Tell what a place is</h2>
    {#if box && box.w >= 2 && box.h >= 2}
      <p class="mt-1">{px(box.w)} × {px(box.h)} at {trimmed(box.x)}, {trimmed(box.y)} is</p>
      <div class="mt-2 grid gap-1">
        {#each KINDS as k (k.id)}
          <button
            class="border border-drift px-3 py-1 text-left hover:border-ink"
            title={`Key ${k.key}`}
            onclick={() => tell(k.id)}>{k.label}</button
          >
        {/each}
        <button
          class="border border-drift px-3 py-1 text-left hover:border-ink"
          title="Key r"
          onclick={readText}>Text, read again</button
        >
      </div>
    {:else}
      <p class="mt-1 text-ash">Draw round a place on the picture. It is read again as what you say it is.</p>
    {/if}
  {:else if chosen}
    <h2 class="font-semibold">
      {surface
        ? "Panel"
        : picture
          ? picture.kind === "icon"
            ? "Icon"
            : "Picture"
          : chosen.kind === "rule"
            ? "Line"
            : "Text"}
      {chosen.index + 1}
    </h2>
    <table class="mt-2 w-full">
      <tbody>
        {@render row("place", `${trimmed(chosen.rect.x)}, ${trimmed(chosen.rect.y)}`, columns)}
        {@render row("size", `${trimmed(chosen.rect.w)} × ${trimmed(chosen.rect.h)}`, "px")}
        {#if surface}
          {@render row(
            "fill",
            surface.fill.stops?.length ? "gradient" : surface.fill.colour,
            surface.fill.stops?.length
              ? `${surface.fill.centre ? "from a centre" : `${trimmed(surface.fill.angle ?? 0, 1)}°`}, ${surface.fill.stops.map((s) => s[1]).join(" → ")}`
              : "",
          )}
          {#if surface.corners}{@render row(
              "corners",
              surface.corners.map((c) => trimmed(c, 1)).join(" "),
              "px",
            )}
          {:else}{@render row("radius", px(surface.radius))}{/if}
          {#if surface.border.some(Boolean)}
            {@render row(
              "border",
              surface.border.every((b) => b === surface.border[0])
                ? px(surface.border[0])
                : surface.border
                    .map((b, i) => (b ? `${sides[i]} ${b}` : ""))
                    .filter(Boolean)
                    .join(", "),
              surface.border_colour,
            )}
          {/if}
          {#if surface.accent}{@render row(
              `${sides[surface.accent[0]]} side`,
              px(surface.accent[1]),
              surface.accent[2],
            )}{/if}
          {#each shadowsOf(surface) as [name, shadow] (name)}
            {@render row(
              name,
              `${shadow.dx} ${shadow.dy} ${shadow.blur} ${shadow.spread}`,
              `${shadow.colour} ${Math.round(100 * shadow.opacity)} %`,
            )}
          {/each}
        {:else if picture}
          {@render row("kind", picture.kind, picture.backdrop ? "text lies on it" : "")}
          {#if picture.text}{@render row("in it", `“${picture.text.slice(0, 60)}”`)}{/if}
        {:else if chosen.kind === "rule"}
          {@render row("colour", reading.rules[chosen.index]!.colour)}
        {/if}
      </tbody>
    </table>
    <h3 class="mt-4 font-semibold">Around it</h3>
    <table class="w-full">
      <tbody>
        {#each around as d (`${d.axis}${d.from}`)}
          {@const [a, b] = inUnits(d.size, desk.base, container)}
          {@render row(
            d.axis === "x"
              ? d.to <= chosen.rect.x + 0.5
                ? "left"
                : "right"
              : d.to <= chosen.rect.y + 0.5
                ? "above"
                : "below",
            a,
            b,
          )}
        {/each}
      </tbody>
    </table>
    <div class="mt-3 flex flex-wrap gap-2">
      {#each KINDS.filter((k) => (surface ? k.id !== "surface" : k.id !== picture?.kind)) as k (k.id)}
        <button
          class="border border-drift px-2 py-1 text-sm hover:border-ink"
          onclick={() => onchange({ kind: "add", pin: region(chosen.rect, k.id) })}
          >It is {k.label.toLowerCase()}</button
        >
      {/each}
    </div>
  {:else}
    <h2 class="font-semibold">Layout read</h2>
    <p class="mt-1 text-ash">
      {reading.surfaces.length} panels, {reading.rules.length} lines, {reading.cutouts.length} pictures and icons.
    </p>
    {#if desk.layers.open}
      {#if coverage.data}
        <p class="mt-1" role="status">
          {trimmed(100 * coverage.data.unexplained, 3)} % of the picture is not explained (SSIM {trimmed(
            coverage.data.ssim,
            3,
          )}
          painted back), in {coverage.data.places.length} places.
        </p>
      {:else}<p class="mt-1 text-ash" role="status">Painting the reading back…</p>{/if}
    {/if}

    <h3 class="mt-4 font-semibold">Grid{pinned ? ", by hand" : ""}</h3>
    {#if reading.grid}
      <p class="text-ash">
        {reading.grid.columns} columns of {px(reading.grid.column)}, {px(reading.grid.gutter)} apart; margins {px(
          reading.grid.margin,
        )}
        and {px(reading.grid.end)}. {Math.round(100 * reading.grid.explained)} % of free edges stand on it;
        {reading.grid.bands?.length ?? 0} full-width bands.
      </p>
    {:else}<p class="text-ash">Nothing stands in columns.</p>{/if}
    <form
      class="mt-2 grid grid-cols-4 gap-1"
      onsubmit={(e) => {
        e.preventDefault();
        onchange({
          kind: "add",
          pin: gridPin(draft.left, draft.width, draft.columns, draft.gutter, reading.height),
        });
      }}
    >
      {#each [["columns", "Columns", 1], ["gutter", "Gutter", 0.5], ["left", "Left", 0.5], ["width", "Width", 0.5]] as const as [key, label, step] (key)}
        <label class="text-sm text-ash">
          {label}
          <input
            type="number"
            min={key === "columns" ? 1 : 0}
            {step}
            class="w-full border border-drift bg-snow px-1 py-0.5 text-ink"
            bind:value={draft[key]}
          />
        </label>
      {/each}
      <button class="col-span-4 border border-drift px-2 py-1 hover:border-ink">Use this grid</button>
    </form>

    <h3 class="mt-4 font-semibold">Distances</h3>
    <p class="text-ash">
      steps of {px(reading.spacing.step)} explain {Math.round(100 * reading.spacing.explained)} % of {reading
        .gaps.length}
    </p>
    <p class="mt-1 leading-7">
      {#each reading.spacing.values as [v, n] (v)}
        <span class="mr-1 inline-block border border-drift px-1" title={`${n} times`}
          >{v}<span class="text-sm text-ash">×{n}</span></span
        >
      {/each}
    </p>
    {#if reading.spacing.leftovers.length}
      <details class="text-sm text-ash">
        <summary>{reading.spacing.leftovers.length} others fit no step</summary>
        {reading.spacing.leftovers.map(([v, n]) => (n > 1 ? `${v}×${n}` : `${v}`)).join(", ")}
      </details>
    {/if}

    <h3 class="mt-4 font-semibold">Palette</h3>
    <ul>
      {#each reading.palette as entry (entry.name)}
        <li class="flex items-baseline justify-between border-b border-drift py-0.5">
          <span>{@render swatch(entry.colour)}{entry.name}</span>
          <span class="text-sm text-ash"
            >{entry.colour}{entry.share >= 0.0005 ? `, ${trimmed(100 * entry.share, 1)} %` : ""}</span
          >
        </li>
      {/each}
    </ul>
    <h3 class="mt-4 font-semibold">Contrast</h3>
    <ul class="text-sm">
      {#each reading.contrasts.slice(0, 8) as c (`${c.ink}${c.ground}`)}
        <li class={["border-b border-drift py-0.5", c.ratio < c.needed && "text-signal"]}>
          {@render swatch(c.ink)}on {@render swatch(c.ground)}{trimmed(c.ratio)} : 1{c.ratio < c.needed
            ? `, below ${c.needed} (AA)`
            : ""}; {c.lines} line{c.lines === 1 ? "" : "s"}
        </li>
      {/each}
    </ul>
  {/if}
  <div class="mt-6"><PinList {project} {onchange} /></div>
</aside>
