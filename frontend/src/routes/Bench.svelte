<script lang="ts">
  import CodeView from "$lib/bench/CodeView.svelte";
  import Findings from "$lib/bench/Findings.svelte";
  import Ledger from "$lib/bench/Ledger.svelte";
  import LivePage from "$lib/bench/LivePage.svelte";
  import Looks from "$lib/bench/Looks.svelte";
  import Stage from "$lib/bench/Stage.svelte";
  import StepRail from "$lib/bench/StepRail.svelte";
  import Stages from "$lib/Stages.svelte";
  import type { Finding } from "$lib/api/client";
  import { isLook, LOOKS, type Look } from "$lib/looks";
  import { buildAgainMutation, cancelMutation, projectQuery } from "$lib/queries";
  import { navigate, p, route } from "../router";

  const id = $derived(route.params.id ?? "");
  const project = projectQuery(() => id);
  const again = buildAgainMutation();
  const cancel = cancelMutation();
  const build = $derived(project.data?.build);
  const asked = $derived(route.params.look);
  const done = $derived(build?.state === "done");
  const look = $derived<Look>(isLook(asked) ? asked : "seam");
  let chosen = $state.raw<Finding | undefined>();

  function show(next: Look) {
    void navigate("/projects/:id/:look", { params: { id, look: next }, replace: true });
  }

  function keys(event: KeyboardEvent) {
    const target = event.target as HTMLElement;
    if (
      event.ctrlKey ||
      event.metaKey ||
      event.altKey ||
      /^(INPUT|TEXTAREA|SELECT)$/.test(target.tagName) ||
      target.isContentEditable
    )
      return;
    const found = LOOKS.find((l) => l.key === event.key);
    if (found && done) show(found.id);
  }
</script>

<svelte:head><title>{project.data?.name ?? "Project"} – Neige</title></svelte:head>
<svelte:window onkeydown={keys} />

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
    <StepRail project={project.data} />
    {#if done && build?.proof}
      <main class="grid min-h-0 grid-cols-[minmax(0,1fr)_19rem]">
        <section class="flex min-h-0 min-w-0 flex-col" aria-label="Stage">
          <Looks {look} onchange={show} />
          {#if look === "code"}
            <CodeView build={build.id} />
          {:else if look === "live"}
            <LivePage build={build.id} width={build.proof.width} />
          {:else}
            <Stage build={build.id} width={build.proof.width} {look} focus={chosen} />
          {/if}
        </section>
        <Ledger {build} project={project.data} onagain={() => again.mutate(id)} />
      </main>
      <Findings
        findings={build.proof.findings}
        bind:chosen
        onshow={() => (look === "code" || look === "live") && show("seam")}
      />
    {:else if build}
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
          {#if build.state === "queued" || build.state === "running"}
            <button
              class="self-start border border-drift px-4 py-2 hover:border-ink"
              onclick={() => cancel.mutate(build.id)}
            >
              Cancel
            </button>
          {:else}
            <button
              class="self-start bg-ink px-4 py-2 font-semibold text-paper hover:bg-firn"
              onclick={() => again.mutate(id)}
            >
              Build it again
            </button>
          {/if}
        </section>
      </main>
    {/if}
  </div>
{/if}
