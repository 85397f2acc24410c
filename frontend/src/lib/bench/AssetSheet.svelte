<script lang="ts">
  import type { Cutout, Reading } from "../api/client";
  import { bytes } from "../format";
  import { asset } from "../pins";
  import { formatsQuery, type PinChange } from "../queries";
  import { trimmed } from "../layout";

  let {
    reading,
    build,
    onchange,
    onshow,
  }: {
    reading: Reading;
    build: string;
    onchange: (change: PinChange) => void;
    onshow: (cutout: number) => void;
  } = $props();

  let open = $state<number>();
  let quality = $state(0);
  const formats = formatsQuery(
    () => build,
    () => open,
    () => quality,
  );
  const groups = $derived([
    { name: "Pictures", of: numbered().filter((c) => c.cutout.kind === "image") },
    { name: "Icons", of: numbered().filter((c) => c.cutout.kind === "icon") },
  ]);
  function numbered() {
    return reading.cutouts.map((cutout, i) => ({ cutout, i }));
  }

  function choose(
    cutout: Cutout,
    change: Partial<{ name: string; alt: string; format: string; quality: number }>,
  ) {
    const now = { name: cutout.name, alt: cutout.alt, format: cutout.format, quality: cutout.quality };
    onchange({ kind: "add", pin: asset(cutout.rect, { ...now, ...change }) });
  }
</script>

<div class="min-h-0 flex-1 overflow-auto px-6 py-4">
  {#each groups as group (group.name)}
    <section class="mb-6" aria-label={group.name}>
      <h2 class="font-semibold">{group.of.length} {group.name.toLowerCase()}</h2>
      <ol>
        {#each group.of as { cutout, i } (i)}
          {@const shown = Math.min(1, 150 / cutout.rect.w, 100 / cutout.rect.h)}
          <li class="grid grid-cols-[10rem_minmax(0,1fr)] gap-5 border-b border-drift py-3">
            <button
              class="self-start justify-self-start"
              title="Show it on the picture"
              aria-label={`Show ${cutout.kind} ${i + 1} on the picture`}
              onclick={() => onshow(i)}
            >
              <span
                class="block outline outline-drift"
                style:width={`${cutout.rect.w * shown}px`}
                style:height={`${cutout.rect.h * shown}px`}
                style:background-image={`url(/api/builds/${build}/picture)`}
                style:background-size={`${reading.width * shown}px auto`}
                style:background-position={`${-cutout.rect.x * shown}px ${-cutout.rect.y * shown}px`}
              ></span>
            </button>
            <div>
              <p class="text-ash">
                {trimmed(cutout.rect.w)} × {trimmed(cutout.rect.h)} px{cutout.backdrop
                  ? ", text lies on it and is taken out"
                  : ""}{cutout.text ? `; in it: “${cutout.text.slice(0, 80)}”` : ""}
              </p>
              <div class="mt-1 flex flex-wrap gap-3">
                <label class="text-sm text-ash"
                  >Name
                  <input
                    class="block w-40 border border-drift bg-snow px-2 py-0.5 text-base text-ink"
                    value={cutout.name}
                    placeholder="from the words near it"
                    maxlength="80"
                    onchange={(e) => choose(cutout, { name: e.currentTarget.value })}
                  /></label
                >
                <label class="text-sm text-ash"
                  >Described as
                  <input
                    class="block w-64 border border-drift bg-snow px-2 py-0.5 text-base text-ink"
                    value={cutout.alt}
                    placeholder={cutout.text.slice(0, 40) || "decorative"}
                    maxlength="300"
                    onchange={(e) => choose(cutout, { alt: e.currentTarget.value })}
                  /></label
                >
                <label class="text-sm text-ash"
                  >Stored as
                  <select
                    class="block border border-drift bg-snow px-1 py-1 text-base text-ink"
                    value={cutout.format}
                    onchange={(e) => choose(cutout, { format: e.currentTarget.value })}
                  >
                    <option value="">what suits it</option>
                    {#each ["svg", "png", "webp", "avif", "jpeg"] as f (f)}
                      <option value={f}>{f.toUpperCase()}</option>
                    {/each}
                  </select></label
                >
                <button
                  class="self-end border border-drift px-2 py-0.5 hover:border-ink"
                  aria-expanded={open === i}
                  onclick={() => {
                    quality = cutout.quality;
                    open = open === i ? undefined : i;
                  }}>Formats side by side</button
                >
              </div>
              {#if open === i}
                <div class="mt-2">
                  <label class="flex items-center gap-2 text-sm">
                    Quality
                    <input
                      type="range"
                      min="0"
                      max="100"
                      step="2"
                      class="w-40 accent-firn"
                      bind:value={quality}
                    />
                    <output>{quality || "usual"}</output>
                    {#if quality !== cutout.quality}
                      <button
                        class="border border-drift px-2 hover:border-ink"
                        onclick={() => choose(cutout, { quality })}>Use it</button
                      >
                    {/if}
                  </label>
                  {#if formats.isPending}
                    <p class="text-ash" role="status">Trying the formats…</p>
                  {:else if formats.isError}
                    <p class="text-signal" role="alert">{formats.error.message}</p>
                  {:else}
                    <ul class="mt-2 flex flex-wrap gap-4">
                      {#each formats.data.formats as f, n (f.name)}
                        <li>
                          <img
                            src={`/api/builds/${build}/cutouts/${i}/as/${f.name}?quality=${quality}`}
                            alt={`As ${f.name.toUpperCase()}`}
                            class="max-h-32 max-w-44 outline outline-drift"
                          />
                          <p class={n === 0 ? "font-semibold" : ""}>
                            {f.name.toUpperCase()}
                            {bytes(f.bytes)}
                          </p>
                          <p class={["text-sm", f.good ? "text-ash" : "text-signal"]}>
                            {f.error ? `ΔE ${trimmed(f.error)}` : "exact"}{f.good ? "" : ", one can tell"}
                          </p>
                        </li>
                      {/each}
                    </ul>
                  {/if}
                </div>
              {/if}
            </div>
          </li>
        {/each}
      </ol>
    </section>
  {/each}
</div>
