<!-- What has become of the last change, while the page before it is looked at. -->
<script lang="ts">
  import type { Build } from "$lib/api/client";

  let { latest, oncancel }: { latest: Build; oncancel: () => void } = $props();
</script>

<p class="flex gap-4 border-b border-drift bg-snow px-5 py-1.5" role="status">
  {#if latest.state === "failed"}
    <span class="text-signal">The last change could not be built: {latest.error}</span>
  {:else if latest.state === "cancelled"}
    <span class="text-ash">The last build was cancelled; this is the one before it.</span>
  {:else}
    <span>
      Working your change in: {latest.steps.at(-1)?.what ?? "waiting for a worker"}. What you see is the page
      before it.
    </span>
    <button class="underline" onclick={oncancel}>Cancel</button>
  {/if}
</p>
