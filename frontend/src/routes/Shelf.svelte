<script lang="ts">
  import BringIn from "$lib/BringIn.svelte";
  import ProjectCard from "$lib/ProjectCard.svelte";
  import ThemeButton from "$lib/ThemeButton.svelte";
  import { projectsQuery } from "$lib/queries";

  const projects = projectsQuery();
  const list = $derived(projects.data?.projects ?? []);
</script>

<svelte:head><title>Projects – Neige</title></svelte:head>

<div class="mx-auto min-h-dvh max-w-[76rem] px-6 pb-16">
  <header class="flex items-baseline gap-4 py-6">
    <h1 class="text-xl font-bold tracking-tight">
      <img src="/mark.svg" alt="" class="mr-2 inline size-6 align-[-0.3em]" />Neige
    </h1>
    <p class="text-ash">Pictures of pages, turned into pages.</p>
    <div class="ml-auto"><ThemeButton /></div>
  </header>

  <main>
    <BringIn compact={list.length > 0} />

    {#if projects.isPending}
      <p class="py-16 text-center text-ash" role="status">Fetching the projects…</p>
    {:else if projects.isError}
      <div class="mt-8 border-l-4 border-signal bg-paper px-6 py-5" role="alert">
        <p class="font-semibold">The projects could not be fetched.</p>
        <p class="text-ash">{projects.error.message}</p>
        <button class="mt-3 underline" onclick={() => projects.refetch()}>Try again</button>
      </div>
    {:else if list.length === 0}
      <p class="mt-10 max-w-prose text-ash">
        Nothing here yet. The first picture you bring in becomes a project: it is measured, written as HTML
        and CSS, drawn in a browser and compared with the picture.
      </p>
    {:else}
      <h2 class="mt-9 mb-4 font-semibold">
        {list.length} project{list.length === 1 ? "" : "s"}
        <span class="font-normal text-ash">– picture left of the seam, page right of it</span>
      </h2>
      <ul class="grid grid-cols-[repeat(auto-fill,minmax(17rem,1fr))] gap-x-6 gap-y-8">
        {#each list as project (project.id)}
          <ProjectCard {project} />
        {/each}
      </ul>
    {/if}
  </main>
</div>
