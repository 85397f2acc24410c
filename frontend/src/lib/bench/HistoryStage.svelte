<!-- Every page of a project, and the chosen one beside the page in use or the picture. -->
<script lang="ts">
  import type { Build } from "$lib/api/client";
  import type { Bench } from "./bench.svelte";
  import HistoryList from "./HistoryList.svelte";
  import Stage from "./Stage.svelte";

  let { bench, present }: { bench: Bench; present: Build } = $props();
  const { versions } = $derived(bench);
  const version = $derived(versions.chosen);
  const beside = $derived(
    version && {
      source: `/api/builds/${versions.against === "page" ? present.id : version.id}/${versions.against === "page" ? "page" : "picture"}`,
      says: versions.against === "page" ? "the page in use" : "picture",
      right: version.kind === "brought" ? "your page" : "this page",
    },
  );
</script>

{#if versions.history.isError}
  <p class="m-6 border-l-4 border-signal bg-paper px-4 py-3" role="alert">{versions.history.error.message}</p>
{:else}
  <div class="flex min-h-0 flex-1">
    <HistoryList project={bench.id} versions={versions.all} chosen={version} onchoose={versions.choose} />
    <div class="flex min-h-0 min-w-0 flex-1 flex-col">
      {#if version?.proof}
        <Stage
          build={version.id}
          picture={version.picture_id}
          width={version.proof.width}
          look={versions.against === "difference" ? "difference" : "seam"}
          {beside}
          focus={bench.chosen?.rect}
        />
      {:else if version}
        <p class="p-6 text-ash" role="status">
          {version.error ?? version.steps.at(-1)?.what ?? "Waiting for a worker…"}
        </p>
      {/if}
    </div>
  </div>
{/if}
