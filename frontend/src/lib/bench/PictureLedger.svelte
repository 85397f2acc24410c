<script lang="ts">
  import type { Project } from "../api/client";
  import { pictureMutation } from "../queries";

  let { project }: { project: Project } = $props();

  const take = pictureMutation(() => project.id);
  let scale = $derived(project.picture?.scale ?? 1);
  let trim = $derived([...(project.picture?.trim ?? [0, 0, 0, 0])]);
  const changed = $derived(
    scale !== project.picture?.scale || trim.some((v, i) => v !== project.picture?.trim[i]),
  );
</script>

{#if project.picture}
  <aside class="min-h-0 overflow-auto border-l border-drift bg-paper px-5 py-4" aria-label="Ledger">
    <h2 class="font-semibold">{project.picture.name}</h2>
    <p class="mt-1 text-ash">{project.picture.width} × {project.picture.height} px of page</p>
    <form
      class="mt-4"
      onsubmit={(e) => {
        e.preventDefault();
        take.mutate({ scale: scale as 1 | 2 | 3, trim });
      }}
    >
      <fieldset>
        <legend class="font-semibold">Scale</legend>
        <p class="text-sm text-ash">picture px to one px of the page</p>
        <div class="mt-1 flex gap-4">
          {#each [1, 2, 3] as s (s)}
            <label
              ><input type="radio" name="scale" value={s} class="accent-firn" bind:group={scale} />
              {s}×</label
            >
          {/each}
        </div>
      </fieldset>
      <fieldset class="mt-4">
        <legend class="font-semibold">Trim</legend>
        <p class="text-sm text-ash">a browser’s or device’s frame, in picture px</p>
        <div class="mt-1 grid grid-cols-2 gap-2">
          {#each ["top", "right", "bottom", "left"] as side, i (side)}
            <label class="text-sm text-ash"
              >{side}
              <input
                type="number"
                min="0"
                class="w-full border border-drift bg-snow px-2 py-0.5 text-base text-ink"
                bind:value={trim[i]}
              /></label
            >
          {/each}
        </div>
      </fieldset>
      <button
        class="mt-4 bg-ink px-3 py-1 font-semibold text-paper hover:bg-firn disabled:opacity-40"
        disabled={!changed || take.isPending}>Take it so</button
      >
      {#if take.isError}<p class="mt-2 text-signal" role="alert">{take.error.message}</p>{/if}
    </form>
  </aside>
{/if}
