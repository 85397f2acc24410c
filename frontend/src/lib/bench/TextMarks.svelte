<script lang="ts">
  import type { Reading } from "../api/client";
  import { lineText } from "../pins";

  let {
    reading,
    scale,
    selected = $bindable(),
  }: { reading: Reading; scale: number; selected?: number } = $props();

  const DOUBTFUL = 0.85; // confidence of a word below which it is marked
  const corner = (b: { x: number; y: number; w: number; h: number }, arm = 8) => {
    const [x1, y1] = [b.x + b.w, b.y + b.h];
    return (
      `M${b.x},${b.y + arm}V${b.y}H${b.x + arm}M${x1 - arm},${b.y}H${x1}V${b.y + arm}` +
      `M${x1},${y1 - arm}V${y1}H${x1 - arm}M${b.x + arm},${y1}H${b.x}V${y1 - arm}`
    );
  };
</script>

<!-- Text marks: a stroke on the baseline, a tick at the x-height where a word begins; doubtful words are dotted under. -->
<svg
  class="absolute inset-0 size-full overflow-visible"
  viewBox={`0 0 ${reading.width} ${reading.height}`}
  role="listbox"
  tabindex="-1"
  aria-label="Lines of text"
  style:--s={1 / Math.max(scale, 0.2)}
>
  {#each reading.lines as line, i (i)}
    <!-- svelte-ignore a11y_click_events_have_key_events (the arrow keys walk the lines) -->
    <g
      role="option"
      tabindex="-1"
      aria-label={lineText(line)}
      aria-selected={selected === i}
      class={["cursor-pointer", selected === i ? "picked" : "mark"]}
      onclick={() => (selected = i)}
    >
      <rect
        x={line.box.x - 3}
        y={line.box.y}
        width={line.box.w + 6}
        height={line.box.h}
        class={selected === i ? "fill-firn/12" : "fill-transparent hover:fill-firn/8"}
      />
      {#each line.words as word, k (k)}
        <path
          d={`M${word.x},${line.baseline - line.x_height}V${line.baseline}H${word.x + word.w}`}
          class="stroke"
        />
        {#if word.confidence < DOUBTFUL}
          <path d={`M${word.x},${line.baseline + 3}H${word.x + word.w}`} class="doubt" />
        {/if}
      {/each}
    </g>
  {/each}
  {#each reading.unread as box, i (i)}
    <path d={corner(box)} class="unread"><title>Looks like text and could not be read</title></path>
  {/each}
  {#each reading.rotated as turned, i (i)}
    <path d={corner(turned.rect)} class="unread"><title>Runs sideways: {turned.text}</title></path>
  {/each}
</svg>

<style>
  .stroke {
    fill: none;
    stroke: #1d6d8c;
    stroke-width: calc(1.25px * var(--s));
  }
  .picked .stroke {
    stroke-width: calc(2.5px * var(--s));
  }
  .doubt {
    fill: none;
    stroke: #b8391a;
    stroke-width: calc(2px * var(--s));
    stroke-dasharray: calc(2px * var(--s)) calc(3px * var(--s));
  }
  .unread {
    fill: transparent;
    stroke: #b8391a;
    stroke-width: calc(1.5px * var(--s));
  }
</style>
