<script lang="ts">
  import { LAYERS, TOOLS, type LayoutDesk } from "../layout.svelte";

  let { desk }: { desk: LayoutDesk } = $props();
</script>

<div class="flex flex-wrap items-center gap-x-5 gap-y-1 border-b border-drift px-4 py-1.5 text-sm">
  <div class="flex" role="group" aria-label="Tools">
    {#each TOOLS as t (t.id)}
      <button
        class={[
          "border-y border-l border-drift px-2.5 py-0.5 last:border-r",
          desk.tool === t.id ? "bg-ink text-paper" : "hover:bg-paper",
        ]}
        aria-pressed={desk.tool === t.id}
        title={`${t.label}: ${t.hint}. Key ${t.key}`}
        onclick={() => desk.use(t.id)}>{t.label}</button
      >
    {/each}
  </div>
  <div class="flex gap-3" role="group" aria-label="Shown">
    {#each LAYERS as l (l.id)}
      <label class="flex items-center gap-1" title={`Key ${l.key}`}>
        <input type="checkbox" class="accent-firn" bind:checked={desk.layers[l.id]} />
        {l.label}
      </label>
    {/each}
  </div>
</div>
