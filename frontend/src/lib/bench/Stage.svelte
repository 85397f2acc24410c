<script lang="ts" module>
  export type View = {
    origin: { x: number; y: number }; // of the picture in the view, px on the screen
    size: { width: number; height: number };
    scale: number;
  };
</script>

<script lang="ts">
  import { untrack, type Snippet } from "svelte";
  import type { Box } from "../api/client";
  import { isTyping, keepAnchor, stepZoom, type Look } from "../looks";

  let {
    build,
    picture,
    width,
    look,
    beside,
    focus,
    bracketed = true,
    overlay,
    frame,
    margin,
  }: {
    build: string;
    picture: string; // the one that the build was made from: it stays when the page is another
    width: number;
    look: Look;
    beside?: { source: string; says: string; right: string }; // what the seam has at its left, if not the picture
    focus?: Box; // brought into view when it changes, and
    bracketed?: boolean; // marked
    overlay?: Snippet<[number]>; // drawn over the picture, told the scale it is shown at
    frame?: Snippet<[View]>; // laid over the view, and stays when the picture is moved under it
    margin?: Snippet<[View, (by: number) => void]>; // to the left of the view; may scroll it
  } = $props();

  let view: HTMLDivElement | undefined = $state();
  let sheet: HTMLDivElement | undefined = $state();
  let viewWidth = $state(0);
  let viewHeight = $state(0);
  let origin = $state({ x: 0, y: 0 });
  let zoom = $state(0); // 0: as wide as the view
  let seam = $state(0.5);
  let veil = $state(0.5);
  let dragging = $state(false);
  let missing = $state(false);
  let turned = $state(false); // blinking: the page is on top
  let nudge = $state({ x: 0, y: 0 }); // px by which the page is laid elsewhere over the picture, to look only
  const over = $derived(look === "seam" || look === "veil" || look === "blink");

  $effect(() => {
    if (look !== "blink" || matchMedia("(prefers-reduced-motion: reduce)").matches) return;
    const timer = setInterval(() => (turned = !turned), BLINK);
    return () => clearInterval(timer);
  });

  const BLINK = 700; // ms: slow enough to look, and far below three flashes a second

  const APART = 16; // px on the screen between picture and page side by side
  const room = $derived(look === "pair" ? (viewWidth - 32 - APART) / 2 : viewWidth - (frame ? 56 : 32));
  const shown = $derived(zoom || Math.min(1, Math.max(0.1, room / width)));
  const lifted = $derived(`${nudge.x * shown}px ${nudge.y * shown}px`);
  const source = (what: string) =>
    what === "picture" ? `/api/pictures/${picture}` : `/api/builds/${build}/${what}`;
  const one = $derived(look === "page" ? "page" : look === "difference" ? "difference" : "picture");

  function moved() {
    if (!view || !sheet) return;
    const [a, b] = [view.getBoundingClientRect(), sheet.getBoundingClientRect()];
    origin = { x: b.left - a.left, y: b.top - a.top };
  }
  $effect(() => {
    void [shown, viewWidth, viewHeight, missing];
    const frame = requestAnimationFrame(moved);
    return () => cancelAnimationFrame(frame);
  });

  function setZoom(next: number, x = view!.clientWidth / 2, y = view!.clientHeight / 2) {
    const before = shown;
    const left = keepAnchor(view!.scrollLeft, x, before, next);
    const top = keepAnchor(view!.scrollTop, y, before, next);
    zoom = next;
    requestAnimationFrame(() => view?.scrollTo(left, top));
  }

  function wheel(event: WheelEvent) {
    if (!event.ctrlKey && !event.metaKey) return;
    event.preventDefault();
    const box = view!.getBoundingClientRect();
    setZoom(
      Math.min(8, Math.max(0.1, shown * Math.exp(-event.deltaY / 300))),
      event.clientX - box.left,
      event.clientY - box.top,
    );
  }

  const STEPS: Record<string, [number, number]> = {
    ArrowLeft: [-1, 0],
    ArrowRight: [1, 0],
    ArrowUp: [0, -1],
    ArrowDown: [0, 1],
  };

  function keys(event: KeyboardEvent) {
    const step = STEPS[event.key];
    if (event.altKey && !event.ctrlKey && !event.metaKey && step && over && !isTyping(event)) {
      const by = event.shiftKey ? 0.5 : 1;
      nudge = { x: nudge.x + by * step[0], y: nudge.y + by * step[1] };
      event.preventDefault();
      return;
    }
    if (event.ctrlKey || event.metaKey || event.altKey || isTyping(event)) return;
    if (event.key === "+" || event.key === "=") setZoom(stepZoom(shown, 1));
    else if (event.key === "-") setZoom(stepZoom(shown, -1));
    else if (event.key === "0") zoom = 0;
    else if (event.key === " " && look === "blink") turned = !turned;
    else return;
    event.preventDefault();
  }

  function seamKeys(event: KeyboardEvent) {
    const step = event.shiftKey ? 0.1 : 0.01;
    if (event.key === "ArrowLeft") seam = Math.max(0, seam - step);
    else if (event.key === "ArrowRight") seam = Math.min(1, seam + step);
    else return;
    event.preventDefault();
    event.stopPropagation();
  }

  function drag(event: PointerEvent) {
    if (!dragging) return;
    const box = (event.currentTarget as HTMLElement).parentElement!.getBoundingClientRect();
    seam = Math.min(1, Math.max(0, (event.clientX - box.left) / box.width));
  }

  $effect(() => {
    if (focus && view) {
      const [r, to] = [focus, view];
      untrack(() => bring(r, to));
    }
  });
  function bring(r: Box, to: HTMLDivElement) {
    const [left, top] = [r.x * shown + origin.x, r.y * shown + origin.y];
    const inside =
      left >= 0 && top >= 0 && left + r.w * shown <= viewWidth && top + r.h * shown <= viewHeight;
    if (inside && !bracketed) return; // what is in view was chosen there, and stays where it is
    // what is larger than the view is shown from where it begins
    to.scrollTo({
      left: Math.min((r.x + r.w / 2) * shown - to.clientWidth / 2, r.x * shown),
      top: Math.min((r.y + r.h / 2) * shown - to.clientHeight / 2, r.y * shown),
      behavior: matchMedia("(prefers-reduced-motion: reduce)").matches ? "auto" : "smooth",
    });
  }
</script>

<svelte:window onkeydown={keys} />

<div class="flex items-center gap-4 px-4 py-1.5 text-sm text-ash">
  <div class="flex shrink-0 items-center gap-1">
    <button
      class="px-2 hover:text-ink"
      aria-label="Zoom out"
      title="Zoom out. Key −"
      onclick={() => setZoom(stepZoom(shown, -1))}>−</button
    >
    <output aria-label="Zoom" class="w-12 text-center text-ink">{Math.round(shown * 100)} %</output>
    <button
      class="px-2 hover:text-ink"
      aria-label="Zoom in"
      title="Zoom in. Key +"
      onclick={() => setZoom(stepZoom(shown, 1))}>+</button
    >
    <button class="px-2 hover:text-ink" title="As wide as the stage. Key 0" onclick={() => (zoom = 0)}
      >Fit</button
    >
    <button class="px-2 whitespace-nowrap hover:text-ink" onclick={() => setZoom(1)}>1 : 1</button>
  </div>
  {#if look === "veil"}
    <label class="flex items-center gap-2">
      Page over picture
      <input type="range" min="0" max="1" step="0.01" bind:value={veil} class="w-40 accent-firn" />
      <output class="w-10 text-ink">{Math.round(veil * 100)} %</output>
    </label>
  {:else if look === "seam"}
    <span>{beside?.says ?? "picture"} ← seam → {beside?.right ?? "page"}, by drag or keys</span>
  {:else if look === "pair"}
    <span>picture at the left, page at the right; they move together</span>
  {:else if look === "blink"}
    <span>now: <b class="font-semibold text-ink">{turned ? "page" : "picture"}</b>. Space turns it.</span>
  {:else if look === "difference"}
    <span
      >deeper is farther apart (ΔE00 up to 20); strokes: how far parts were drawn off, eight times as long</span
    >
  {/if}
  {#if over && (nudge.x || nudge.y)}
    <span role="status">
      page nudged <b class="font-semibold text-ink">{nudge.x}, {nudge.y} px</b>, to look only
      <button class="ml-1 underline hover:text-ink" onclick={() => (nudge = { x: 0, y: 0 })}>Put back</button>
    </span>
  {:else if over}
    <span
      class="whitespace-nowrap"
      title="Alt and an arrow lay the page a px elsewhere over the picture; with Shift half a px"
      >Alt + arrows nudge</span
    >
  {/if}
</div>

<div class={["relative flex min-h-0 flex-1 flex-col", margin && "pl-60"]}>
  {@render margin?.({ origin, size: { width: viewWidth, height: viewHeight }, scale: shown }, (by) =>
    view?.scrollBy({ top: by }),
  )}
  <!-- svelte-ignore a11y_no_noninteractive_tabindex (a scrolling region must be reachable by key) -->
  <div
    bind:this={view}
    bind:clientWidth={viewWidth}
    bind:clientHeight={viewHeight}
    onscroll={moved}
    class={["min-h-0 flex-1 overflow-auto p-4", frame && "pt-9 pl-9"]}
    tabindex="0"
    role="region"
    aria-label="Picture and page"
    onwheel={wheel}
  >
    {#if missing}
      <p role="alert" class="text-signal">The pictures of this build could not be fetched.</p>
    {/if}
    <div
      bind:this={sheet}
      class="relative mx-auto w-fit bg-white shadow-[0_0_0_1px_var(--color-drift)]"
      style:width={`${width * shown}px`}
      style:margin-left={look === "pair" ? "0" : undefined}
      style:margin-right={look === "pair" ? `${width * shown + APART}px` : undefined}
    >
      <img
        src={beside && look === "seam" ? beside.source : source(one)}
        alt={one === "page" ? "The page as drawn" : one === "difference" ? "Difference map" : "The picture"}
        class={["block w-full", shown >= 2 && "[image-rendering:pixelated]"]}
        onerror={() => (missing = true)}
        onload={() => (missing = false)}
      />
      {#if look === "pair"}
        <img
          src={source("page")}
          alt="The page as drawn"
          class={[
            "absolute top-0 w-full shadow-[0_0_0_1px_var(--color-drift)]",
            shown >= 2 && "[image-rendering:pixelated]",
          ]}
          style:left={`${width * shown + APART}px`}
        />
      {/if}
      {#if look === "seam"}
        <img
          src={source("page")}
          alt="The page as drawn"
          class={["absolute top-0 left-0 w-full", shown >= 2 && "[image-rendering:pixelated]"]}
          style:clip-path={`inset(0 0 0 ${seam * 100}%)`}
          style:translate={lifted}
        />
        <div
          role="slider"
          tabindex="0"
          aria-label="Seam"
          aria-valuemin="0"
          aria-valuemax="100"
          aria-valuenow={Math.round(seam * 100)}
          class="absolute inset-y-0 w-4 -translate-x-1/2 cursor-ew-resize touch-none before:absolute before:inset-y-0 before:left-1/2 before:w-0.5 before:-translate-x-1/2 before:bg-signal"
          style:left={`${seam * 100}%`}
          onkeydown={seamKeys}
          onpointerdown={(e) => {
            dragging = true;
            e.currentTarget.setPointerCapture(e.pointerId);
          }}
          onpointermove={drag}
          onpointerup={() => (dragging = false)}
        ></div>
      {:else if look === "veil" || look === "blink"}
        <img
          src={source("page")}
          alt="The page as drawn"
          class={["absolute top-0 left-0 w-full", shown >= 2 && "[image-rendering:pixelated]"]}
          style:opacity={look === "veil" ? veil : turned ? 1 : 0}
          style:translate={lifted}
        />
      {/if}
      {@render overlay?.(shown)}
      {#if focus && bracketed}
        <!-- a found difference is bracketed left and right, like a passage in a margin -->
        {#each look === "pair" ? [0, width * shown + APART] : [0] as along (along)}
          <div
            class="pointer-events-none absolute border-x-2 border-signal"
            style:left={`${focus.x * shown - 5 + along}px`}
            style:top={`${focus.y * shown - 3}px`}
            style:width={`${focus.w * shown + 10}px`}
            style:height={`${focus.h * shown + 6}px`}
          ></div>
        {/each}
      {/if}
    </div>
  </div>
  {@render frame?.({ origin, size: { width: viewWidth, height: viewHeight }, scale: shown })}
</div>
