<script lang="ts">
  import type { Part } from "../api/client";
  import { isOpen, pathTo, spread, visible, type Tree } from "../outline";
  import type { View } from "./Stage.svelte";

  let {
    tree,
    chosen,
    turned,
    view,
    onchoose,
    onturn,
    onmove,
    onscroll,
  }: {
    tree: Tree;
    chosen?: Part;
    turned: ReadonlySet<number>; // parts opened or closed by hand
    view: View;
    onchoose: (part: Part) => void;
    onturn: (part: Part) => void;
    onmove: (part: Part, to: "before" | "after", other: Part) => void;
    onscroll: (by: number) => void;
  } = $props();

  const LEAST = 17; // px between two notes
  const shown = $derived(visible(tree, chosen, turned));
  const path = $derived(new Set(pathTo(tree, chosen).map((p) => p.id)));
  const top = (p: Part) => view.origin.y + p.rect.y * view.scale;
  const heights = $derived(
    spread(
      shown.map((p) => top(p) + 9),
      LEAST,
    ),
  );
  const indent = (p: Part) => 10 + Math.min(p.depth, 8) * 11;

  /** A brace from y0 to y1 with its nose to the left at x. */
  function brace(x: number, y0: number, y1: number): string {
    const [r, m] = [Math.min(4, (y1 - y0) / 4), (y0 + y1) / 2];
    return (
      `M${x + 4},${y0}Q${x},${y0} ${x},${y0 + r}V${m - r}Q${x},${m} ${x - 4},${m}` +
      `Q${x},${m} ${x},${m + r}V${y1 - r}Q${x},${y1} ${x + 4},${y1}`
    );
  }

  let held = $state.raw<Part>();
  let target = $state.raw<{ part: Part; to: "before" | "after" }>();

  function drag(event: PointerEvent) {
    if (!held) return;
    const box = (event.currentTarget as HTMLElement).getBoundingClientRect();
    const y = event.clientY - box.top;
    const held_ = held;
    const rest = shown
      .map((part, i) => ({ part, y: heights[i]! }))
      .filter(({ part }) => part.parent === held_.parent && part !== held_);
    const near = rest.sort((a, b) => Math.abs(a.y - y) - Math.abs(b.y - y))[0];
    target =
      near && Math.abs(near.y - y) < 40
        ? { part: near.part, to: y < near.y ? "before" : "after" }
        : undefined;
  }

  function drop() {
    if (held && target) onmove(held, target.to, target.part);
    held = target = undefined;
  }
</script>

<!-- the outline, written beside the picture at the height where each part lies -->
<div
  class="absolute inset-y-0 left-0 w-60 overflow-hidden border-r border-drift bg-paper text-sm"
  role="tree"
  aria-label="Outline"
  tabindex="-1"
  onwheel={(e) => onscroll(e.deltaY)}
  onpointermove={drag}
  onpointerup={drop}
  onpointerleave={() => (held = target = undefined)}
>
  <svg class="pointer-events-none absolute inset-0 size-full" aria-hidden="true">
    {#each shown as part, i (part.id)}
      {@const [y0, y1] = [top(part), top(part) + part.rect.h * view.scale]}
      {#if y1 > -20 && y0 < view.size.height + 20}
        {#if tree.children.has(part.id) && y1 - y0 > 12}
          <path
            d={brace(indent(part), y0 + 1, y1 - 1)}
            class={["fill-none", path.has(part.id) ? "stroke-firn" : "stroke-ash/55"]}
            stroke-width={part === chosen ? 2 : 1}
          />
        {:else}
          <path
            d={`M${indent(part)},${Math.min(y0 + 5, y1)}V${Math.max(y1 - 1, y0 + 6)}`}
            class={part === chosen ? "stroke-firn" : "stroke-ash/55"}
            stroke-width={part === chosen ? 2 : 1}
          />
        {/if}
        {#if Math.abs(heights[i]! - y0 - 9) > 4}
          <path
            d={`M${indent(part) + 5},${Math.max(y0 + 3, heights[i]! - 60)}V${heights[i]}h3`}
            class="fill-none stroke-ash/30"
          />
        {/if}
      {/if}
    {/each}
  </svg>
  {#each shown as part, i (part.id)}
    {@const inner = tree.children.get(part.id)?.length ?? 0}
    {@const open = isOpen(part, path, turned)}
    {#if heights[i]! > -20 && heights[i]! < view.size.height + 20}
      <div
        class={[
          "absolute right-1 flex touch-none items-baseline gap-1.5 rounded-sm px-1 leading-4 whitespace-nowrap",
          part === chosen ? "bg-firn/15" : "hover:bg-snow",
          target?.part === part &&
            (target.to === "before" ? "border-t-2 border-firn" : "border-b-2 border-firn"),
          held === part && "opacity-50",
        ]}
        style:top={`${heights[i]! - 8}px`}
        style:left={`${indent(part) + 9}px`}
        role="treeitem"
        tabindex={part === chosen ? 0 : -1}
        aria-level={part.depth + 1}
        aria-selected={part === chosen}
        aria-expanded={inner ? open : undefined}
        title={part.reasons.length ? `${part.tag}: ${part.reasons.join("; ")}` : undefined}
        onclick={() => onchoose(part)}
        onkeydown={(e) => e.key === " " && onchoose(part)}
        onpointerdown={(e) => {
          if (e.button === 0 && part === chosen) held = part;
        }}
      >
        <b class="font-semibold">{part.tag}</b>
        <span class="min-w-0 flex-1 truncate text-ash"
          >{part.kind === "text" || part.kind === "field" ? part.text || part.name : part.name}</span
        >
        {#if inner}
          <button
            class="px-1 text-ash hover:text-ink"
            tabindex="-1"
            aria-label={open ? `Close ${part.name || part.tag}` : `Open ${part.name || part.tag}`}
            onclick={(e) => {
              e.stopPropagation();
              onturn(part);
            }}>{open ? "−" : inner}</button
          >
        {/if}
      </div>
    {/if}
  {/each}
</div>
