<script lang="ts">
  import { LOOKS, type Look } from "../looks";

  let { look, onchange }: { look: Look; onchange: (look: Look) => void } = $props();
</script>

<div class="flex gap-1 border-b border-drift px-4 pt-1.5" role="group" aria-label="Ways of looking">
  {#each LOOKS as l (l.id)}
    <button
      class={[
        "border-b-2 px-2 py-1.5 whitespace-nowrap",
        look === l.id ? "border-ink font-semibold" : "border-transparent text-ash hover:text-ink",
      ]}
      aria-pressed={look === l.id}
      title={`${l.label}: ${l.hint}. Key ${l.key}`}
      onclick={() => onchange(l.id)}
    >
      {l.label}
    </button>
  {/each}
</div>
