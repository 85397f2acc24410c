<script lang="ts">
  import type { Reading } from "../api/client";
  import { distancesAround, edgesOf, marksOf, markAt, snap, trimmed, type Point } from "../layout";
  import type { LayoutDesk } from "../layout.svelte";

  let { reading, build, scale, desk }: { reading: Reading; build: string; scale: number; desk: LayoutDesk } =
    $props();

  const REACH = 7; // px on the screen within which a point is drawn to an edge
  let svg: SVGSVGElement | undefined = $state();
  let down = $state(false);

  const marks = $derived(marksOf(reading));
  const solid = $derived(marks.filter((m) => m.kind !== "text"));
  const edges = $derived({
    x: [...edgesOf(marks, "x"), ...desk.guides.filter((g) => g.axis === "x").map((g) => g.at)],
    y: [...edgesOf(marks, "y"), ...desk.guides.filter((g) => g.axis === "y").map((g) => g.at)],
  });
  const around = $derived(
    desk.chosen && desk.tool === "choose" ? distancesAround(marks, desk.chosen, reading) : [],
  );
  const columns = $derived.by(() => {
    const g = reading.grid;
    if (!g) return [];
    return Array.from({ length: g.columns }, (_, i) => g.margin + i * (g.column + g.gutter));
  });
  const k = $derived(1 / Math.max(scale, 0.1)); // px of the page in one px of the screen

  function at(event: PointerEvent): Point {
    const r = svg!.getBoundingClientRect();
    return { x: (event.clientX - r.left) / scale, y: (event.clientY - r.top) / scale };
  }
  function snapped(p: Point): Point {
    return { x: snap(edges.x, p.x, REACH * k), y: snap(edges.y, p.y, REACH * k) };
  }
  function press(event: PointerEvent) {
    if (event.button) return;
    const p = at(event);
    if (desk.tool === "choose") desk.chosen = markAt(solid, p) ?? markAt(marks, p);
    else if (desk.tool === "colour") desk.cursor = p;
    else {
      desk.from = snapped(p);
      desk.to = desk.from;
      down = true;
      svg!.setPointerCapture(event.pointerId);
    }
  }
  function move(event: PointerEvent) {
    const p = at(event);
    desk.cursor = p;
    if (down) {
      const q = snapped(p);
      desk.to = event.shiftKey ? straight(desk.from!, q) : q;
    }
  }
  function straight(a: Point, b: Point): Point {
    return Math.abs(a.x - b.x) > Math.abs(a.y - b.y) ? { x: b.x, y: a.y } : { x: a.x, y: b.y };
  }
  // corner strokes for panels, the arms as long as the panel allows
  function corners(r: { x: number; y: number; w: number; h: number }) {
    const arm = Math.min(10 * k, r.w / 3, r.h / 3);
    const [x, y, X, Y] = [r.x, r.y, r.x + r.w, r.y + r.h];
    return (
      `M${x},${y + arm}V${y}H${x + arm}M${X - arm},${y}H${X}V${y + arm}` +
      `M${X},${Y - arm}V${Y}H${X - arm}M${x + arm},${Y}H${x}V${Y - arm}`
    );
  }
  // a dimension: the distance with a short stroke across each end
  const dimension = (x0: number, y0: number, x1: number, y1: number) => {
    const t = 3 * k;
    return y0 === y1
      ? `M${x0},${y0 - t}v${2 * t}M${x0},${y0}H${x1}M${x1},${y1 - t}v${2 * t}`
      : `M${x0 - t},${y0}h${2 * t}M${x0},${y0}V${y1}M${x1 - t},${y1}h${2 * t}`;
  };
</script>

<svg
  bind:this={svg}
  class={[
    "absolute inset-0 size-full touch-none overflow-visible select-none",
    desk.tool !== "choose" && "cursor-crosshair",
  ]}
  viewBox={`0 0 ${reading.width} ${reading.height}`}
  role="application"
  aria-label="Layout read"
  style:--s={k}
  onpointerdown={press}
  onpointermove={move}
  onpointerup={() => (down = false)}
>
  {#if desk.layers.open}
    <image
      href={`/api/builds/${build}/unexplained`}
      width={reading.width}
      height={reading.height}
      preserveAspectRatio="none"
    />
  {/if}
  {#if desk.layers.grid && reading.grid}
    {#each columns as x, i (i)}
      <rect {x} y="0" width={reading.grid.column} height={reading.height} class="column" />
      <path d={`M${x},0v${14 * k}M${x + reading.grid.column},0v${14 * k}`} class="column-end" />
    {/each}
    {#each reading.grid.bands ?? [] as band, i (i)}
      <path d={`M0,${band.y}H${reading.width}M0,${band.y + band.h}H${reading.width}`} class="band" />
    {/each}
  {/if}
  {#if desk.layers.panels}
    {#each reading.surfaces as s, i (i)}
      <path d={corners(s.rect)} class="panel" data-panel={i} />
    {/each}
    {#each reading.rules as r, i (i)}
      <path
        d={r.rect.w >= r.rect.h
          ? `M${r.rect.x},${r.rect.y + r.rect.h / 2}h${r.rect.w}`
          : `M${r.rect.x + r.rect.w / 2},${r.rect.y}v${r.rect.h}`}
        class="rule"
      />
    {/each}
  {/if}
  {#if desk.layers.pictures}
    {#each reading.cutouts as c, i (i)}
      <path
        d={`M${c.rect.x},${c.rect.y}h${c.rect.w}v${c.rect.h}h${-c.rect.w}z` +
          `M${c.rect.x},${c.rect.y + Math.min(12 * k, c.rect.h)}l${Math.min(12 * k, c.rect.w)},${-Math.min(12 * k, c.rect.h)}`}
        class="picture"
        data-picture={i}
      />
    {/each}
  {/if}
  {#if desk.layers.spacing}
    {#each reading.gaps as g, i (i)}
      <path
        d={g.axis === "inline"
          ? dimension(g.x, g.y, g.x + g.size, g.y)
          : dimension(g.x, g.y, g.x, g.y + g.size)}
        class="gap"
      />
      {#if g.size * scale >= 11}
        <text
          x={g.axis === "inline" ? g.x + g.size / 2 : g.x + 4 * k}
          y={g.axis === "inline" ? g.y - 3 * k : g.y + g.size / 2 + 4 * k}
          text-anchor={g.axis === "inline" ? "middle" : "start"}
          class="number">{trimmed(g.size, 1)}</text
        >
      {/if}
    {/each}
  {/if}
  {#if desk.chosen}
    <rect
      x={desk.chosen.rect.x}
      y={desk.chosen.rect.y}
      width={desk.chosen.rect.w}
      height={desk.chosen.rect.h}
      class="chosen"
    />
    {#each around as d, i (i)}
      <path
        d={d.axis === "x"
          ? dimension(d.from, d.across, d.to, d.across)
          : dimension(d.across, d.from, d.across, d.to)}
        class="measure"
      />
      <text
        x={d.axis === "x" ? (d.from + d.to) / 2 : d.across + 5 * k}
        y={d.axis === "x" ? d.across - 4 * k : (d.from + d.to) / 2 + 4 * k}
        text-anchor={d.axis === "x" ? "middle" : "start"}
        class="number strong">{trimmed(d.size, 1)}</text
      >
    {/each}
  {/if}
  {#each desk.guides as g, i (i)}
    <path d={g.axis === "x" ? `M${g.at},0V${reading.height}` : `M0,${g.at}H${reading.width}`} class="guide" />
  {/each}
  {#if desk.box && desk.tool === "measure"}
    {@const b = desk.box}
    <rect x={b.x} y={b.y} width={b.w} height={b.h} class="span" />
    {#if b.w}
      <path d={dimension(b.x, desk.from!.y, b.x + b.w, desk.from!.y)} class="measure" />
      <text x={b.x + b.w / 2} y={desk.from!.y - 5 * k} text-anchor="middle" class="number strong"
        >{trimmed(b.w, 1)}</text
      >
    {/if}
    {#if b.h}
      <path d={dimension(desk.to!.x, b.y, desk.to!.x, b.y + b.h)} class="measure" />
      <text x={desk.to!.x + 6 * k} y={b.y + b.h / 2 + 4 * k} class="number strong">{trimmed(b.h, 1)}</text>
    {/if}
  {:else if desk.box && desk.tool === "place"}
    <rect x={desk.box.x} y={desk.box.y} width={desk.box.w} height={desk.box.h} class="place" />
  {/if}
  {#if desk.cursor && desk.tool !== "choose"}
    <path
      d={`M${desk.cursor.x},${desk.cursor.y - 9 * k}v${18 * k}M${desk.cursor.x - 9 * k},${desk.cursor.y}h${18 * k}`}
      class="cross"
    />
  {/if}
</svg>

<style>
  path,
  rect {
    fill: none;
    stroke-width: calc(1.25px * var(--s));
  }
  .panel {
    stroke: #1d6d8c;
  }
  .rule {
    stroke: #1d6d8c;
    stroke-dasharray: calc(6px * var(--s)) calc(3px * var(--s));
  }
  .picture {
    stroke: #8a5a12;
  }
  .column {
    fill: #1d6d8c14;
  }
  .column-end {
    stroke: #1d6d8c;
    stroke-width: calc(2px * var(--s));
  }
  .band {
    stroke: #1d6d8c80;
    stroke-dasharray: calc(1px * var(--s)) calc(5px * var(--s));
  }
  .gap {
    stroke: #7a6f63;
    stroke-width: var(--s);
  }
  .number {
    font-size: calc(11px * var(--s));
    fill: #3d3a36;
    paint-order: stroke;
    stroke: #fffffff0;
    stroke-width: calc(3px * var(--s));
  }
  .strong {
    font-weight: 650;
    fill: #a3300f;
  }
  .chosen {
    stroke: #16242c;
    stroke-width: calc(2px * var(--s));
  }
  .measure {
    stroke: #b8391a;
    stroke-width: calc(1.5px * var(--s));
  }
  .span {
    fill: #b8391a12;
  }
  .place {
    fill: #8a5a121f;
    stroke: #8a5a12;
  }
  .guide {
    stroke: #6a8f2f;
  }
  .cross {
    stroke: #16242c;
    pointer-events: none;
  }
</style>
