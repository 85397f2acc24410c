<script lang="ts">
  import type { Project } from "../api/client";
  import { bytes, pixels } from "../format";
  import ThemeButton from "../ThemeButton.svelte";
  import { p } from "../../router";

  let { project }: { project: Project } = $props();
  const build = $derived(project.shown ?? project.build);
  const proof = $derived(build?.proof);
  const outline = $derived(build?.steps.find((s) => s.stage === "outline")?.what);
</script>

<header class="flex items-center gap-5 border-b border-drift bg-paper px-5 py-2.5">
  <a href={p("/")} class="font-bold" title="All projects">
    <img src="/mark.svg" alt="Neige: all projects" class="inline size-5 align-[-0.2em]" />
  </a>
  <h1 class="max-w-[20rem] truncate font-semibold">{project.name}</h1>
  <ol class="ml-auto flex items-baseline gap-4 text-ash" aria-label="Steps of the job">
    <li>
      bring in <b class="font-semibold text-ink">{project.picture?.width} × {project.picture?.height}</b
      >{#if project.picture && project.picture.scale > 1}
        <span class="ml-1 text-ink">at {project.picture.scale}x</span>{/if}
    </li>
    {#if proof}
      <li>
        <a
          class="hover:text-ink"
          href={p("/projects/:id/:look", { params: { id: project.id, look: "read" } })}
          >read <b class="font-semibold text-ink">{proof.words_seen} words</b></a
        >
      </li>
      {#if outline}<li>outline <b class="font-semibold text-ink">{outline}</b></li>{/if}
      <li>write <b class="font-semibold text-ink">{bytes(build!.code_bytes)}</b></li>
      <li>prove <b class="font-semibold text-ink">{pixels(proof.position_px)}</b></li>
    {/if}
  </ol>
  {#if build?.state === "done"}
    <a
      class="bg-ink px-3 py-1.5 font-semibold text-paper hover:bg-firn"
      href={`/api/builds/${build.id}/archive.zip`}
      download
    >
      Hand over (ZIP)
    </a>
  {/if}
  <ThemeButton />
</header>
