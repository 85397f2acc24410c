<script lang="ts">
  import { Bench } from "$lib/bench/bench.svelte";
  import Building from "$lib/bench/Building.svelte";
  import Findings from "$lib/bench/Findings.svelte";
  import Looks from "$lib/bench/Looks.svelte";
  import News from "$lib/bench/News.svelte";
  import StepLedger from "$lib/bench/StepLedger.svelte";
  import StepRail from "$lib/bench/StepRail.svelte";
  import StepStage from "$lib/bench/StepStage.svelte";
  import { accept } from "$lib/pins";
  import { p } from "../router";

  const bench = new Bench();
  const { project, pins, versions } = bench;
  const build = $derived(bench.build);
  const latest = $derived(bench.latest);
  const shown = $derived(bench.look === "history" && versions.chosen?.proof ? versions.chosen : build);
  $effect(() => bench.layout.open(bench.id));
</script>

<svelte:head><title>{project.data?.name ?? "Project"} – Neige</title></svelte:head>
<svelte:window onkeydown={bench.keys} />

{#if project.isPending}
  <p class="grid h-dvh place-items-center text-ash" role="status">Fetching the project…</p>
{:else if project.isError || !project.data}
  <main class="grid h-dvh place-items-center">
    <div class="border-l-4 border-signal bg-paper px-8 py-6" role="alert">
      <h1 class="text-lg font-semibold">This project could not be opened</h1>
      <p class="mt-1 text-ash">{project.error?.message ?? "The server did not answer."}</p>
      <p class="mt-4"><a class="underline" href={p("/")}>Back to the projects</a></p>
    </div>
  </main>
{:else}
  <div class="grid h-dvh grid-rows-[auto_minmax(0,1fr)_auto]">
    <div>
      <StepRail project={project.data} />
      {#if build && latest && latest.id !== build.id}
        <News {latest} oncancel={() => bench.cancel.mutate(latest.id)} />
      {/if}
      {#if pins.isError}
        <p class="border-b border-drift bg-paper px-5 py-1.5 text-signal" role="alert">
          {pins.error.message}
        </p>
      {/if}
    </div>
    {#if build && bench.done && build.proof}
      <main class="grid min-h-0 grid-cols-[minmax(0,1fr)_19rem]">
        <section class="flex min-h-0 min-w-0 flex-col" aria-label="Stage">
          <Looks look={bench.look} onchange={(look) => bench.turn(look)} />
          <StepStage {bench} {build} />
        </section>
        <StepLedger {bench} {build} project={project.data} />
      </main>
      <Findings
        findings={shown!.proof!.findings}
        bind:chosen={bench.chosen}
        onaccept={(finding) => pins.mutate({ kind: "add", pin: accept(finding) })}
        onagain={(finding, file) => bench.reread(finding.rect, file)}
        onfix={bench.look === "history" ? undefined : (finding) => bench.fix(finding)}
        onshow={() => (bench.look === "code" || bench.look === "live") && bench.turn("seam")}
      />
    {:else if build}
      <Building
        {build}
        oncancel={() => bench.cancel.mutate(build.id)}
        onagain={() => bench.again.mutate(bench.id)}
      />
    {/if}
  </div>
{/if}
