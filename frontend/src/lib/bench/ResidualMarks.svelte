<script lang="ts">
  import type { Part } from "../api/client";
  import { residuals } from "../outline";

  let { parts, width, height, scale }: { parts: Part[]; width: number; height: number; scale: number } =
    $props();

  const LONGER = 8; // times: a px is too short to be seen
  const marks = $derived(residuals(parts));
</script>

<!-- where each part lies is a ring; how far off it was drawn, and which way, a stroke from it -->
<svg
  class="pointer-events-none absolute top-0 left-0"
  width={width * scale}
  height={height * scale}
  role="img"
  aria-label={`${marks.filter((m) => m.off >= 1).length} of ${marks.length} parts were drawn a px or more off`}
>
  {#each marks as m (m.id)}
    <g class={m.off >= 1 ? "text-signal" : "text-firn"} stroke="currentColor" fill="none">
      <circle cx={m.x * scale} cy={m.y * scale} r={m.off >= 1 ? 3 : 1.5} />
      <line
        x1={m.x * scale}
        y1={m.y * scale}
        x2={m.x * scale + m.dx * LONGER}
        y2={m.y * scale + m.dy * LONGER}
        stroke-width="1.5"
      />
      {#if m.off >= 1}
        <text
          x={m.x * scale + 6}
          y={m.y * scale - 4}
          fill="currentColor"
          stroke="none"
          class="text-[10px] tabular-nums">{m.off.toFixed(1)}</text
        >
      {/if}
    </g>
  {/each}
</svg>
