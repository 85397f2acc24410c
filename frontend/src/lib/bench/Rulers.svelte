<script lang="ts">
  import { ticks, type Axis } from "../layout";
  import type { LayoutDesk } from "../layout.svelte";

  let {
    origin,
    size,
    scale,
    desk,
    snapTo,
  }: {
    origin: { x: number; y: number }; // of the page in the view, px on the screen
    size: { width: number; height: number }; // of the view
    scale: number;
    desk: LayoutDesk;
    snapTo: (axis: Axis, at: number) => number;
  } = $props();

  const WIDE = 20; // px of a ruler
  let moving = $state<{ axis: Axis; index: number }>();
  let box: HTMLDivElement | undefined = $state();
  const steps = $derived(ticks(scale));

  function marks(axis: Axis): { at: number; place: number; label: boolean }[] {
    const start = axis === "x" ? origin.x : origin.y;
    const length = axis === "x" ? size.width : size.height;
    const first = Math.floor((WIDE - start) / scale / steps.minor) * steps.minor;
    const out = [];
    for (let at = first; at * scale + start < length; at += steps.minor) {
      const v = Math.round(at * 100) / 100;
      out.push({ at: v, place: v * scale + start, label: Math.abs(v % steps.step) < 1e-6 });
    }
    return out.filter((m) => m.place >= WIDE);
  }

  const toPage = (axis: Axis, event: PointerEvent) => {
    const r = box!.getBoundingClientRect();
    return axis === "x"
      ? (event.clientX - r.left - origin.x) / scale
      : (event.clientY - r.top - origin.y) / scale;
  };

  /** A guide is pulled out of the ruler that runs along it. */
  function pull(axis: Axis, event: PointerEvent) {
    const at = snapTo(axis, toPage(axis, event));
    desk.keep([...desk.guides, { axis, at }]);
    moving = { axis, index: desk.guides.length - 1 };
    (event.currentTarget as HTMLElement).setPointerCapture(event.pointerId);
  }
  function grab(index: number, event: PointerEvent) {
    moving = { axis: desk.guides[index]!.axis, index };
    (event.currentTarget as HTMLElement).setPointerCapture(event.pointerId);
  }
  function drag(event: PointerEvent) {
    if (!moving) return;
    const m = moving;
    const at = snapTo(m.axis, toPage(m.axis, event));
    desk.guides = desk.guides.map((g, i) => (i === m.index ? { ...g, at } : g));
  }
  function drop(event: PointerEvent) {
    if (!moving) return;
    const r = box!.getBoundingClientRect();
    const back = moving.axis === "x" ? event.clientX - r.left < WIDE : event.clientY - r.top < WIDE;
    desk.keep(back ? desk.guides.filter((_, i) => i !== moving!.index) : desk.guides);
    moving = undefined;
  }
  function nudge(index: number, event: KeyboardEvent) {
    const g = desk.guides[index]!;
    const by = { ArrowLeft: -1, ArrowUp: -1, ArrowRight: 1, ArrowDown: 1 }[event.key];
    if (event.key === "Delete" || event.key === "Backspace")
      desk.keep(desk.guides.filter((_, i) => i !== index));
    else if (by)
      desk.keep(
        desk.guides.map((o, i) => (i === index ? { ...g, at: g.at + by * (event.shiftKey ? 10 : 1) } : o)),
      );
    else return;
    event.preventDefault();
    event.stopPropagation();
  }
</script>

<div bind:this={box} class="pointer-events-none absolute inset-0 overflow-hidden select-none">
  {#each ["x", "y"] as const as axis (axis)}
    <!-- a ruler along the left is pulled for upright guides, one along the top for level ones -->
    <div
      class={[
        "pointer-events-auto absolute top-0 left-0 touch-none bg-paper/95",
        axis === "x"
          ? "h-5 w-full cursor-row-resize border-b border-drift"
          : "h-full w-5 cursor-col-resize border-r border-drift",
      ]}
      role="presentation"
      title={axis === "x" ? "Pull a level guide out of the ruler" : "Pull an upright guide out of the ruler"}
      data-ruler={axis}
      onpointerdown={(e) => pull(axis === "x" ? "y" : "x", e)}
      onpointermove={drag}
      onpointerup={drop}
    >
      <svg class="size-full text-ash" aria-hidden="true">
        {#each marks(axis) as m (m.at)}
          {#if axis === "x"}
            <path d={`M${m.place},20v${m.label ? -9 : -4}`} stroke="currentColor" stroke-width="1" />
            {#if m.label}<text x={m.place + 3} y="10" font-size="9.5" fill="currentColor">{m.at}</text>{/if}
          {:else}
            <path d={`M20,${m.place}h${m.label ? -9 : -4}`} stroke="currentColor" stroke-width="1" />
            {#if m.label}
              <text
                x="-3"
                y="9"
                font-size="9.5"
                fill="currentColor"
                transform={`translate(0 ${m.place}) rotate(-90)`}
                text-anchor="end">{m.at}</text
              >
            {/if}
          {/if}
        {/each}
        {#if desk.cursor}
          {@const c = axis === "x" ? desk.cursor.x * scale + origin.x : desk.cursor.y * scale + origin.y}
          <path d={axis === "x" ? `M${c},0v20` : `M0,${c}h20`} class="stroke-signal" stroke-width="1" />
        {/if}
      </svg>
    </div>
  {/each}
  <div class="absolute top-0 left-0 size-5 border-r border-b border-drift bg-paper"></div>
  {#each desk.guides as g, i (i)}
    {@const place = g.axis === "x" ? g.at * scale + origin.x : g.at * scale + origin.y}
    {#if place >= WIDE}
      <!-- svelte-ignore a11y_no_noninteractive_tabindex, a11y_no_noninteractive_element_interactions (a separator that can be moved) -->
      <div
        class={[
          "pointer-events-auto absolute touch-none outline-offset-[-3px]",
          g.axis === "x"
            ? "top-0 h-full w-2 -translate-x-1/2 cursor-col-resize"
            : "left-0 h-2 w-full -translate-y-1/2 cursor-row-resize",
        ]}
        style:left={g.axis === "x" ? `${place}px` : undefined}
        style:top={g.axis === "y" ? `${place}px` : undefined}
        role="separator"
        tabindex="0"
        aria-label={`Guide at ${g.at} px`}
        aria-orientation={g.axis === "x" ? "vertical" : "horizontal"}
        aria-valuenow={g.at}
        onpointerdown={(e) => grab(i, e)}
        onpointermove={drag}
        onpointerup={drop}
        onkeydown={(e) => nudge(i, e)}
      ></div>
    {/if}
  {/each}
</div>
