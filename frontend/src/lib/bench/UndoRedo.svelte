<script lang="ts">
  import type { Project } from "../api/client";
  import type { PinChange } from "../queries";

  let { project, onchange }: { project: Project; onchange: (change: PinChange) => void } = $props();
</script>

{#each [["undo", "Undo", "Ctrl Z"], ["redo", "Redo", "Ctrl Shift Z"]] as const as [kind, label, key] (kind)}
  <button
    class="hover:text-ink enabled:underline disabled:text-ash/60"
    disabled={project[kind] === null}
    title={project[kind] === null
      ? `Nothing to ${label.toLowerCase()}`
      : `${label}: ${project[kind]}. ${key}`}
    onclick={() => onchange({ kind })}>{label}</button
  >
{/each}
