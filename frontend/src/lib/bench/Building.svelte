<!-- A project without a finished page: how far its build is, or why there is none. -->
<script lang="ts">
  import type { Build } from "$lib/api/client";
  import Stages from "$lib/Stages.svelte";

  let { build, oncancel, onagain }: { build: Build; oncancel: () => void; onagain: () => void } = $props();
  const underWay = $derived(build.state === "queued" || build.state === "running");
</script>

<main class="grid min-h-0 grid-cols-[minmax(0,1fr)_26rem]">
  <div class="min-h-0 overflow-hidden p-6">
    <img
      src={`/api/builds/${build.id}/picture`}
      alt="What is being worked on"
      class="max-h-full max-w-full object-contain object-top"
    />
  </div>
  <section class="flex flex-col gap-6 bg-paper px-6 py-8" aria-live="polite">
    {#if build.state === "failed"}
      <div class="border-l-4 border-signal pl-4" role="alert">
        <h1 class="text-lg font-semibold">The page could not be built</h1>
        <p class="mt-1 text-ash">{build.error}</p>
      </div>
    {:else if build.state === "cancelled"}
      <h1 class="text-lg font-semibold">This build was cancelled</h1>
    {:else}
      <h1 class="text-lg font-semibold">
        {build.state === "queued" ? "Waiting for a worker" : "Working on the picture"}
      </h1>
    {/if}
    <Stages {build} />
    {#if underWay}
      <button class="self-start border border-drift px-4 py-2 hover:border-ink" onclick={oncancel}>
        Cancel
      </button>
    {:else}
      <button class="self-start bg-ink px-4 py-2 font-semibold text-paper hover:bg-firn" onclick={onagain}>
        Build it again
      </button>
    {/if}
  </section>
</main>
