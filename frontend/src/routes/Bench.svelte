<script lang="ts">
  import AssetSheet from "$lib/bench/AssetSheet.svelte";
  import CodeEdits from "$lib/bench/CodeEdits.svelte";
  import CodeView from "$lib/bench/CodeView.svelte";
  import HistoryList from "$lib/bench/HistoryList.svelte";
  import VersionLedger from "$lib/bench/VersionLedger.svelte";
  import Findings from "$lib/bench/Findings.svelte";
  import Ledger from "$lib/bench/Ledger.svelte";
  import LayoutLedger from "$lib/bench/LayoutLedger.svelte";
  import LayoutMarks from "$lib/bench/LayoutMarks.svelte";
  import LayoutTools from "$lib/bench/LayoutTools.svelte";
  import LineLedger from "$lib/bench/LineLedger.svelte";
  import LivePage from "$lib/bench/LivePage.svelte";
  import Margin from "$lib/bench/Margin.svelte";
  import PartLedger from "$lib/bench/PartLedger.svelte";
  import PartMarks from "$lib/bench/PartMarks.svelte";
  import Looks from "$lib/bench/Looks.svelte";
  import PictureLedger from "$lib/bench/PictureLedger.svelte";
  import ResidualMarks from "$lib/bench/ResidualMarks.svelte";
  import Rulers from "$lib/bench/Rulers.svelte";
  import Stage from "$lib/bench/Stage.svelte";
  import TextMarks from "$lib/bench/TextMarks.svelte";
  import TypeSheet from "$lib/bench/TypeSheet.svelte";
  import StepRail from "$lib/bench/StepRail.svelte";
  import Stages from "$lib/Stages.svelte";
  import { SvelteSet } from "svelte/reactivity";
  import type { Box, Finding, Part, Version } from "$lib/api/client";
  import { edgesOf, marksOf, snap } from "$lib/layout";
  import { LAYERS, LayoutDesk, TOOLS } from "$lib/layout.svelte";
  import { isLook, isTyping, LOOKS, type Look } from "$lib/looks";
  import * as outlines from "$lib/outline";
  import { accept, following, merge, notText, readAgain, readingOrder, roomy } from "$lib/pins";
  import {
    buildAgainMutation,
    cancelMutation,
    historyQuery,
    outlineQuery,
    pinMutation,
    projectQuery,
    readingQuery,
  } from "$lib/queries";
  import { navigate, p, route } from "../router";

  const READS: Look[] = ["read", "layout", "type", "cutouts"];
  const desk = new LayoutDesk();
  $effect(() => desk.open(id));

  const id = $derived(route.params.id ?? "");
  const project = projectQuery(() => id);
  const again = buildAgainMutation();
  const cancel = cancelMutation();
  const pins = pinMutation(() => id);
  // the last finished build stays in use while another is under way
  const latest = $derived(project.data?.build);
  const build = $derived(project.data?.shown ?? latest);
  const asked = $derived(route.params.look);
  const done = $derived(build?.state === "done");
  const look = $derived<Look>(isLook(asked) ? asked : "seam");
  const reading = readingQuery(() => (done && READS.includes(look) ? build?.id : undefined));
  const part = $derived(Number.parseInt(route.params.part ?? "", 10));
  const outline = outlineQuery(() =>
    done && (look === "outline" || look === "code" || look === "difference") ? build?.id : undefined,
  );
  const tree = $derived(outlines.treeOf(outline.data?.parts ?? []));
  // a part keeps its place over a new build though its number may change: it is found again by where it lies
  let kept = $state.raw<Part>();
  const node = $derived.by(() => {
    if (!kept) return look === "outline" || look === "code" ? outlines.partOf(tree, part) : undefined;
    const here = tree.parts.filter((p) => same(p, kept!));
    return here.find((p) => p.tag === kept!.tag) ?? here[0];
  });
  const same = (a: Part, b: Part) =>
    Math.abs(a.rect.x - b.rect.x) + Math.abs(a.rect.y - b.rect.y) + Math.abs(a.rect.w - b.rect.w) < 3 &&
    Math.abs(a.rect.h - b.rect.h) < 3;
  const turned = new SvelteSet<number>();
  let liking = $state.raw<Part>();

  function choosePart(next: Part | undefined) {
    if (liking && next && next !== liking) {
      pins.mutate({ kind: "add", pin: outlines.like(liking, next) });
      liking = undefined;
      return;
    }
    kept = next;
    void navigate("/projects/:id/:look/:part", {
      params: { id, look: look === "code" ? "code" : "outline", part: next ? `${next.id}` : "none" },
      replace: true,
    });
  }

  function partKeys(event: KeyboardEvent): boolean {
    if (look !== "outline" || !outline.data) return false;
    const shown = outlines.visible(tree, node, turned);
    const at = node ? shown.indexOf(node) : -1;
    const add = (pin: ReturnType<typeof outlines.role>) => pins.mutate({ kind: "add", pin });
    const next = node && outlines.beside(tree, node, 1);
    const before = node && outlines.beside(tree, node, -1);
    if (event.shiftKey && event.key === "ArrowUp" && node && before)
      add(outlines.order(node, "before", before));
    else if (event.shiftKey && event.key === "ArrowDown" && node && next)
      add(outlines.order(node, "after", next));
    else if (event.key === "ArrowDown") choosePart(shown[Math.min(at + 1, shown.length - 1)]);
    else if (event.key === "ArrowUp") choosePart(shown[Math.max(at - 1, 0)]);
    else if (event.key === "ArrowLeft" && node) choosePart(outlines.partOf(tree, node.parent) ?? node);
    else if (event.key === "ArrowRight" && node) choosePart(tree.children.get(node.id)?.[0] ?? node);
    else if (event.key === "Escape") {
      if (liking) liking = undefined;
      else choosePart(undefined);
    } else if (!node) return false;
    else if (event.key === "Enter") document.querySelector<HTMLSelectElement>("[data-role]")?.focus();
    else if (event.key === "r") document.querySelector<HTMLInputElement>("[data-rename]")?.select();
    else if (event.key === "k") liking = liking ? undefined : node;
    else if (event.key === "u" && tree.children.has(node.id)) add(outlines.unwrap(node));
    else if (event.key === "w" && next) add(outlines.wrap(node, next));
    else if (event.key === "j" && node.kind === "text" && next?.kind === "text")
      add(outlines.join(node, next));
    else return false;
    return true;
  }

  const history = historyQuery(() => (look === "history" ? id : undefined));
  let versionId = $state<string>();
  let against = $state<"page" | "picture" | "difference">("picture");
  const versions = $derived(history.data?.versions ?? []);
  const version = $derived(versions.find((v) => v.id === versionId) ?? versions.find((v) => v.present));

  function chooseVersion(next: Version) {
    versionId = next.id;
    chosen = undefined;
    // an earlier page is looked at beside the one in use, one brought beside the picture
    if (next.kind === "brought" || next.id === build?.id) against = "picture";
    else if (against === "picture") against = "page";
  }

  function historyKeys(event: KeyboardEvent): boolean {
    const by = { ArrowUp: -1, ArrowDown: 1 }[event.key];
    if (look !== "history" || !by || !version) return false;
    const next = versions[versions.indexOf(version) + by];
    if (next) chooseVersion(next);
    return true;
  }

  const line = $derived(Number.isNaN(part) || !reading.data?.lines[part] ? undefined : part);
  let chosen = $state.raw<Finding | undefined>();

  function choose(next: number | undefined) {
    if (next === undefined) show("read");
    else
      void navigate("/projects/:id/:look/:part", {
        params: { id, look: "read", part: `${next}` },
        replace: true,
      });
  }

  function walk(by: 1 | -1) {
    const order = readingOrder(reading.data?.lines ?? []);
    if (order.length)
      choose(
        order[
          line === undefined
            ? by > 0
              ? 0
              : order.length - 1
            : (order.indexOf(line) + by + order.length) % order.length
        ],
      );
  }

  function lineKeys(event: KeyboardEvent): boolean {
    const lines = reading.data?.lines;
    if (look !== "read" || !lines) return false;
    const current = line === undefined ? undefined : lines[line];
    if (event.key === "ArrowDown") walk(1);
    else if (event.key === "ArrowUp") walk(-1);
    else if (event.key === "Escape") choose(undefined);
    else if (!current) return false;
    else if (event.key === "Enter") document.querySelector<HTMLInputElement>("[data-retype]")?.select();
    else if (event.key === "x") pins.mutate({ kind: "add", pin: notText(current) });
    else if (event.key === "m") {
      const next = following(lines, current);
      if (next) pins.mutate({ kind: "add", pin: merge(current, next) });
    } else return false;
    return true;
  }

  const marks = $derived(reading.data ? marksOf(reading.data) : []);

  /** The tools and layers by their letters; arrows move the cross, Enter sets an end of a measurement. */
  function layoutKeys(event: KeyboardEvent): boolean {
    if (look !== "layout" || !reading.data) return false;
    const tool = TOOLS.find((t) => t.key === event.key);
    const layer = LAYERS.find((l) => l.key === event.key);
    const by = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[event.key];
    if (tool) desk.use(tool.id);
    else if (layer) desk.layers[layer.id] = !desk.layers[layer.id];
    else if (event.key === "Escape") desk.clear();
    else if (by && desk.tool === "choose") {
      const solid = marks.filter((m) => m.kind !== "text");
      const at = solid.findIndex((m) => m.kind === desk.chosen?.kind && m.index === desk.chosen.index);
      const step = by[0]! + by[1]!;
      desk.chosen = solid[at < 0 ? 0 : (at + step + solid.length) % solid.length];
    } else if (by) {
      const k = event.shiftKey ? 10 : 1;
      const c = desk.cursor ?? { x: reading.data.width / 2, y: 100 };
      desk.cursor = { x: Math.round(c.x + k * by[0]!), y: Math.round(c.y + k * by[1]!) };
      if (desk.from && desk.tool !== "colour") desk.to = desk.cursor;
    } else if (event.key === "Enter" && desk.cursor && desk.tool !== "choose" && desk.tool !== "colour") {
      const p = {
        x: snap(edgesOf(marks, "x"), desk.cursor.x, 3),
        y: snap(edgesOf(marks, "y"), desk.cursor.y, 3),
      };
      if (desk.from && desk.from !== desk.to) desk.from = desk.to = p;
      else if (desk.from) desk.to = p;
      else desk.from = desk.to = p;
    } else return false;
    return true;
  }

  /** Read the text of a place anew: enlarged, or from a close-up picture of it. */
  function reread(rect: Box, file?: File) {
    const place = roomy(rect);
    pins.mutate(file ? { kind: "close-up", rect: place, file } : { kind: "add", pin: readAgain(place) });
  }

  function show(next: Look) {
    // what was chosen in the outline is chosen in the code too
    const parts = next === "outline" || next === "code";
    if (parts && node)
      void navigate("/projects/:id/:look/:part", {
        params: { id, look: next, part: `${node.id}` },
        replace: true,
      });
    else void navigate("/projects/:id/:look", { params: { id, look: next }, replace: true });
  }

  function keys(event: KeyboardEvent) {
    const typing = isTyping(event);
    if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === "z" && !typing) {
      const kind = event.shiftKey ? "redo" : "undo";
      if (project.data?.[kind] != null) pins.mutate({ kind });
      event.preventDefault();
      return;
    }
    if (event.ctrlKey || event.metaKey || event.altKey || typing) return;
    if (lineKeys(event) || layoutKeys(event) || partKeys(event) || historyKeys(event)) {
      event.preventDefault();
      return;
    }
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
    <div>
      <StepRail project={project.data} />
      {#if build && latest && latest.id !== build.id}
        <p class="flex gap-4 border-b border-drift bg-snow px-5 py-1.5" role="status">
          {#if latest.state === "failed"}
            <span class="text-signal">The last change could not be built: {latest.error}</span>
          {:else if latest.state === "cancelled"}
            <span class="text-ash">The last build was cancelled; this is the one before it.</span>
          {:else}
            <span
              >Working your change in: {latest.steps.at(-1)?.what ?? "waiting for a worker"}. What you see is
              the page before it.</span
            >
            <button class="underline" onclick={() => cancel.mutate(latest.id)}>Cancel</button>
          {/if}
        </p>
      {/if}
      {#if pins.isError}
        <p class="border-b border-drift bg-paper px-5 py-1.5 text-signal" role="alert">
          {pins.error.message}
        </p>
      {/if}
    </div>
    {#if done && build?.proof}
      <main class="grid min-h-0 grid-cols-[minmax(0,1fr)_19rem]">
        <section class="flex min-h-0 min-w-0 flex-col" aria-label="Stage">
          <Looks {look} onchange={show} />
          {#if look === "code"}
            <CodeView
              build={build.id}
              project={id}
              chosen={node}
              online={(at) => choosePart(outlines.partOfLine(tree.parts, at))}
            />
          {:else if look === "live"}
            <LivePage build={build.id} width={build.proof.width} />
          {:else if look === "outline"}
            {#if outline.isPending}
              <p class="p-6 text-ash" role="status">Fetching the outline…</p>
            {:else if outline.isError}
              <p class="m-6 border-l-4 border-signal bg-paper px-4 py-3" role="alert">
                {outline.error.message}
              </p>
            {:else}
              <Stage
                build={build.id}
                width={build.proof.width}
                look="picture"
                focus={node?.rect}
                bracketed={false}
              >
                {#snippet overlay(scale)}
                  <PartMarks
                    parts={tree.parts}
                    width={build.proof!.width}
                    height={build.proof!.height}
                    {scale}
                    chosen={node}
                    onchoose={choosePart}
                    onshares={(of, shares) => pins.mutate({ kind: "add", pin: outlines.shares(of, shares) })}
                  />
                {/snippet}
                {#snippet margin(view, scroll)}
                  <Margin
                    {tree}
                    chosen={node}
                    {turned}
                    {view}
                    onchoose={choosePart}
                    onturn={(p) => (turned.has(p.id) ? turned.delete(p.id) : turned.add(p.id))}
                    onmove={(p, to, other) => pins.mutate({ kind: "add", pin: outlines.order(p, to, other) })}
                    onscroll={scroll}
                  />
                {/snippet}
              </Stage>
            {/if}
          {:else if READS.includes(look)}
            {#if reading.isPending}
              <p class="p-6 text-ash" role="status">Fetching what was read…</p>
            {:else if reading.isError}
              <p class="m-6 border-l-4 border-signal bg-paper px-4 py-3" role="alert">
                {reading.error.message}
              </p>
            {:else if look === "cutouts"}
              <AssetSheet
                reading={reading.data}
                build={build.id}
                onchange={(change) => pins.mutate(change)}
                onshow={(index) => {
                  desk.use("choose");
                  desk.chosen = marks.find((m) => m.kind === "picture" && m.index === index);
                  show("layout");
                }}
              />
            {:else if look === "layout"}
              <LayoutTools {desk} />
              <Stage
                build={build.id}
                width={build.proof.width}
                look="picture"
                focus={desk.chosen?.rect}
                bracketed={false}
              >
                {#snippet overlay(scale)}
                  <LayoutMarks reading={reading.data!} build={build.id} {scale} {desk} />
                {/snippet}
                {#snippet frame(view)}
                  <Rulers
                    {...view}
                    {desk}
                    snapTo={(axis, at) => snap(edgesOf(marks, axis), at, 7 / view.scale)}
                  />
                {/snippet}
              </Stage>
            {:else if look === "type"}
              <TypeSheet reading={reading.data} build={build.id} onpick={choose} />
            {:else}
              <Stage
                build={build.id}
                width={build.proof.width}
                look="picture"
                focus={line === undefined ? undefined : reading.data.lines[line]?.box}
                bracketed={false}
              >
                {#snippet overlay(scale)}
                  <TextMarks reading={reading.data!} {scale} bind:selected={() => line, choose} />
                {/snippet}
              </Stage>
            {/if}
          {:else if look === "history"}
            {#if history.isError}
              <p class="m-6 border-l-4 border-signal bg-paper px-4 py-3" role="alert">
                {history.error.message}
              </p>
            {:else}
              <div class="flex min-h-0 flex-1">
                <HistoryList project={id} {versions} chosen={version} onchoose={chooseVersion} />
                <div class="flex min-h-0 min-w-0 flex-1 flex-col">
                  {#if version?.proof}
                    <Stage
                      build={version.id}
                      width={version.proof.width}
                      look={against === "difference" ? "difference" : "seam"}
                      beside={{
                        source: `/api/builds/${against === "page" ? build.id : version.id}/${against === "page" ? "page" : "picture"}`,
                        says: against === "page" ? "the page in use" : "picture",
                        right: version.kind === "brought" ? "your page" : "this page",
                      }}
                      focus={chosen?.rect}
                    />
                  {:else if version}
                    <p class="p-6 text-ash" role="status">
                      {version.error ?? version.steps.at(-1)?.what ?? "Waiting for a worker…"}
                    </p>
                  {/if}
                </div>
              </div>
            {/if}
          {:else}
            <Stage build={build.id} width={build.proof.width} {look} focus={chosen?.rect}>
              {#snippet overlay(scale)}
                {#if look === "difference" && outline.data}
                  <ResidualMarks
                    parts={tree.parts}
                    width={build.proof!.width}
                    height={build.proof!.height}
                    {scale}
                  />
                {/if}
              {/snippet}
            </Stage>
          {/if}
        </section>
        {#if look === "read" && reading.data}
          <LineLedger
            reading={reading.data}
            build={build.id}
            project={project.data}
            selected={line}
            onchange={(change) => pins.mutate(change)}
          />
        {:else if look === "layout" && reading.data}
          <LayoutLedger
            reading={reading.data}
            build={build.id}
            project={project.data}
            {desk}
            onchange={(change) => pins.mutate(change)}
          />
        {:else if look === "outline" && outline.data}
          <PartLedger
            {tree}
            roles={outline.data.roles}
            checks={outline.data.checks}
            build={build.id}
            project={project.data}
            chosen={node}
            {liking}
            onchoose={choosePart}
            onlike={(p) => (liking = p)}
            onchange={(change) => pins.mutate(change)}
          />
        {:else if look === "code"}
          <CodeEdits project={project.data} onchange={(change) => pins.mutate(change)} />
        {:else if look === "history" && version}
          <VersionLedger
            {version}
            present={build}
            bind:against
            ondropped={() => ((versionId = undefined), (chosen = undefined))}
          />
        {:else if look === "picture"}
          <PictureLedger project={project.data} />
        {:else}
          <Ledger {build} project={project.data} onagain={() => again.mutate(id)} />
        {/if}
      </main>
      <Findings
        findings={(look === "history" && version?.proof ? version : build).proof!.findings}
        bind:chosen
        onaccept={(finding) => pins.mutate({ kind: "add", pin: accept(finding) })}
        onagain={(finding, file) => reread(finding.rect, file)}
        onfix={look === "history"
          ? undefined
          : (finding) => {
              kept = undefined;
              void navigate("/projects/:id/:look/:part", {
                params: { id, look: "outline", part: `${finding.node}` },
              });
            }}
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
