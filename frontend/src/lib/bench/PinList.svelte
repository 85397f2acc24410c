<script lang="ts">
  import type { Project } from "../api/client";
  import type { PinChange } from "../queries";
  import UndoRedo from "./UndoRedo.svelte";

  let { project, onchange }: { project: Project; onchange: (change: PinChange) => void } = $props();
</script>

<div class="flex items-baseline gap-3">
  <h2 class="font-semibold">Pins</h2>
  <span class="ml-auto flex gap-3"><UndoRedo {project} {onchange} /></span>
</div>
{#if project.pins.length}
  <ol class="mt-1">
    {#each project.pins as pin, i (i)}
      <li class="flex items-baseline gap-2 border-b border-drift py-1">
        <span class="min-w-0 flex-1 truncate" title={pin.says}>{pin.says}</span>
        <button
          class="text-ash underline hover:text-ink"
          aria-label={`Take back: ${pin.says}`}
          onclick={() => onchange({ kind: "remove", index: i })}>take back</button
        >
      </li>
    {/each}
  </ol>
{:else}
  <p class="mt-1 text-ash">
    No corrections yet. What you correct here holds in every later reading of this picture.
  </p>
{/if}
