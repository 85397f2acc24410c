<script lang="ts">
  import type { Part } from "../api/client";
  import { columnLines, columnWidths, partAt } from "../outline";

  let {
    parts,
    width,
    height,
    scale,
    chosen,
    onchoose,
    onshares,
  }: {
    parts: Part[];
    width: number;
    height: number;
    scale: number;
    chosen?: Part;
    onchoose: (part: Part | undefined) => void;
    onshares: (part: Part, shares: number[]) => void;
  } = $props();

  let over = $state.raw<Part>();
  let lines = $derived(chosen && chosen.columns.length > 1 ? columnLines(chosen) : []); // moved as they are dragged
  let moved = $state(-1);

  const point = (e: MouseEvent) => {
    const box = (e.currentTarget as SVGElement).getBoundingClientRect();
    return [
      ((e.clientX - box.left) / box.width) * width,
      ((e.clientY - box.top) / box.height) * height,
    ] as const;
  };
  const corner = ({ rect: b }: Part, arm: number) => {
    const [x1, y1] = [b.x + b.w, b.y + b.h];
    return (
      `M${b.x},${b.y + arm}V${b.y}H${b.x + arm}M${x1 - arm},${b.y}H${x1}V${b.y + arm}` +
      `M${x1},${y1 - arm}V${y1}H${x1 - arm}M${b.x + arm},${y1}H${b.x}V${y1 - arm}`
    );
  };

  function move(i: number, x: number) {
    const least = 16;
    lines = lines.with(i, Math.min(lines[i + 1]! - least, Math.max(lines[i - 1]! + least, x)));
    moved = i;
  }
  function settle() {
    if (moved < 0 || !chosen) return;
    moved = -1;
    onshares(chosen, columnWidths(chosen, lines));
  }
  const share = (i: number) =>
    Math.round((1000 * (lines[i]! - lines[i - 1]!)) / (lines.at(-1)! - lines[0]!)) / 10;
</script>

<svg
  class="absolute inset-0 size-full touch-none overflow-visible"
  viewBox={`0 0 ${width} ${height}`}
  role="presentation"
  onpointermove={(e) => {
    const [x, y] = point(e);
    if (moved >= 0 && e.buttons) move(moved, x);
    else over = partAt(parts, x, y);
  }}
  onpointerleave={() => (over = undefined)}
  onpointerup={settle}
  onclick={(e) => {
    const [x, y] = point(e);
    if ((e.target as Element).getAttribute("role") !== "slider") onchoose(partAt(parts, x, y));
  }}
>
  <rect {width} {height} class="fill-transparent" />
  {#if over && over !== chosen}
    <path
      d={corner(over, Math.min(12 / scale, over.rect.w / 3, Math.max(over.rect.h, 4) / 3))}
      class="fill-none stroke-[#1d6d8c]"
      stroke-width={1.25 / scale}
    />
    <text
      x={over.rect.x}
      y={over.rect.y - 4 / scale}
      font-size={12 / scale}
      class="fill-[#1d6d8c] stroke-white [paint-order:stroke]"
      stroke-width={3 / scale}>{over.tag} {over.name}</text
    >
  {/if}
  {#if chosen}
    <rect
      x={chosen.rect.x}
      y={chosen.rect.y}
      width={chosen.rect.w}
      height={chosen.rect.h}
      class="fill-[#1d6d8c]/8"
    />
    <path
      d={corner(chosen, Math.min(14 / scale, chosen.rect.w / 3, Math.max(chosen.rect.h, 4) / 3))}
      class="fill-none stroke-[#1d6d8c]"
      stroke-width={2.5 / scale}
    />
    {#each lines as x, i (i)}
      {#if i > 0 && i < lines.length - 1}
        <!-- drag the line between two columns to change their shares -->
        <rect
          x={x - 6 / scale}
          y={chosen.rect.y}
          width={12 / scale}
          height={chosen.rect.h}
          class="cursor-col-resize fill-transparent"
          role="slider"
          tabindex="0"
          aria-label={`Line between columns ${i} and ${i + 1}`}
          aria-valuenow={share(i)}
          aria-valuetext={`${share(i)} % of the width`}
          onpointerdown={(e) => {
            e.stopPropagation();
            moved = i;
          }}
          onkeydown={(e) => {
            const by = { ArrowLeft: -1, ArrowRight: 1 }[e.key];
            if (by) {
              move(i, lines[i]! + by * (e.shiftKey ? 10 : 1));
              e.preventDefault();
              e.stopPropagation();
            } else if (e.key === "Enter") settle();
          }}
          onblur={settle}
        />
        <path
          d={`M${x},${chosen.rect.y}V${chosen.rect.y + chosen.rect.h}`}
          class="pointer-events-none stroke-[#1d6d8c]"
          stroke-width={(moved === i ? 2.5 : 1.25) / scale}
          stroke-dasharray={`${2 / scale} ${6 / scale}`}
        />
        {#if moved === i}
          <text
            x={x + 6 / scale}
            y={chosen.rect.y + 16 / scale}
            font-size={13 / scale}
            class="fill-[#1d6d8c] stroke-white [paint-order:stroke]"
            stroke-width={3 / scale}>{share(i)} % : {share(i + 1)} %</text
          >
        {/if}
      {/if}
    {/each}
  {/if}
</svg>
