<script lang="ts">
  import type { Finding, Part, Pin, Project } from "../api/client";
  import {
    beside,
    divide,
    join,
    order,
    pathTo,
    rename,
    role,
    rulesFor,
    unwrap,
    wrap,
    written,
    type Tree,
  } from "../outline";
  import { sourceQuery, type PinChange } from "../queries";
  import PartValues from "./PartValues.svelte";
  import PinList from "./PinList.svelte";

  let {
    tree,
    roles,
    checks,
    build,
    project,
    chosen,
    liking,
    onchoose,
    onlike,
    onchange,
  }: {
    tree: Tree;
    roles: string[];
    checks: Finding[];
    build: string;
    project: Project;
    chosen?: Part;
    liking?: Part; // waits for the part it shall be like
    onchoose: (part: Part | undefined) => void;
    onlike: (part: Part | undefined) => void;
    onchange: (change: PinChange) => void;
  } = $props();

  const source = sourceQuery(() => build);
  const rules = $derived(chosen && source.data ? rulesFor(source.data.css, chosen.classes) : []);
  const html = $derived(
    chosen && source.data ? source.data.html.split("\n").slice(chosen.lines[0] - 1, chosen.lines[1]) : [],
  );
  const next = $derived(chosen ? beside(tree, chosen, 1) : undefined);
  const before = $derived(chosen ? beside(tree, chosen, -1) : undefined);
  const inner = $derived(chosen ? (tree.children.get(chosen.id) ?? []) : []);
  const n = (v: number) => `${Math.round(v * 10) / 10}`;
  const faces = $derived(
    chosen
      ? (
          [
            ["x", chosen.rect.x, chosen.drawn?.x],
            ["y", chosen.rect.y, chosen.drawn?.y],
            ["width", chosen.rect.w, chosen.drawn?.w],
            ["height", chosen.rect.h, chosen.drawn?.h],
          ] as const
        ).map(([face, seen, drawn]) => ({
          face,
          seen,
          drawn,
          // a text's box is as wide as its block, its words are not
          off: drawn === undefined || (chosen.kind === "text" && face !== "y") ? undefined : drawn - seen,
          says: written(rules, face),
        }))
      : [],
  );
  const add = (pin: Pin) => onchange({ kind: "add", pin });
  let name = $derived(chosen?.name ?? "");
  const button =
    "border border-drift px-2 py-1 hover:border-ink disabled:text-ash/60 disabled:hover:border-drift";
  // a list that is not in the list of roles, such as li or img, stays as it is
  const choices = $derived(chosen && !roles.includes(chosen.tag) ? [chosen.tag, ...roles] : roles);
</script>

<aside class="min-h-0 overflow-auto border-l border-drift bg-paper px-5 py-4" aria-label="Ledger">
  {#if chosen}
    <nav class="flex flex-wrap gap-x-1 text-sm text-ash" aria-label="Where it is">
      {#each pathTo(tree, chosen).slice(0, -1) as p (p.id)}
        <button class="underline hover:text-ink" onclick={() => onchoose(p)}>{p.name || p.tag}</button><span
          aria-hidden="true">›</span
        >
      {/each}
    </nav>
    <h2 class="font-semibold">{chosen.tag} <span class="text-ash">{chosen.name}</span></h2>
    {#if chosen.text}<p class="truncate text-ash" title={chosen.text}>“{chosen.text}”</p>{/if}

    <div class="mt-3 grid grid-cols-[6rem_1fr] gap-2">
      <label>
        <span class="text-sm text-ash">Role</span>
        <select
          class="w-full border border-drift bg-snow px-1 py-1"
          value={chosen.tag}
          data-role
          onchange={(e) => add(role(chosen, e.currentTarget.value))}
        >
          {#each choices as r (r)}<option value={r}>{r}</option>{/each}
        </select>
      </label>
      <form
        onsubmit={(e) => {
          e.preventDefault();
          if (name.trim() && name !== chosen.name) add(rename(chosen, name.trim()));
        }}
      >
        <label>
          <span class="text-sm text-ash">Name</span>
          <input
            class="w-full border border-drift bg-snow px-2 py-1"
            bind:value={name}
            placeholder="its element says enough"
            spellcheck="false"
            data-rename
          />
        </label>
      </form>
    </div>
    {#if chosen.reasons.length}<p class="mt-1 text-sm text-ash">because: {chosen.reasons.join("; ")}</p>{/if}

    <table class="mt-3 w-full">
      <thead class="text-sm text-ash">
        <tr
          ><th></th><th class="text-right font-normal">seen</th><th class="pl-2 text-right font-normal"
            >written</th
          ><th class="text-right font-normal">drawn</th></tr
        >
      </thead>
      <tbody>
        {#each faces as row (row.face)}
          <tr class="border-b border-drift">
            <th scope="row" class="py-1 text-left font-normal text-ash">{row.face}</th>
            <td class="py-1 text-right font-semibold">{n(row.seen)}</td>
            <td class="max-w-24 truncate py-1 pl-2 text-right text-sm text-ash" title={row.says}
              >{row.says}</td
            >
            <td class="py-1 pl-2 text-right whitespace-nowrap">
              {row.drawn === undefined ? "–" : n(row.drawn)}
              {#if row.off !== undefined && Math.abs(row.off) >= 1}
                <b class="text-signal" title="off by so much"
                  >{row.off > 0 ? "+" : "−"}{n(Math.abs(row.off))}</b
                >
              {/if}
            </td>
          </tr>
        {/each}
      </tbody>
    </table>

    {#if rules.length}
      <h3 class="mt-3 font-semibold">
        Values <span class="font-normal text-ash">as written; change one, or snap it to the kit</span>
      </h3>
      <PartValues css={source.data!.css} {rules} project={project.id} />
    {/if}

    <div class="mt-3 flex flex-wrap gap-2 text-sm">
      <button
        class={button}
        disabled={!before}
        title="Earlier in the document. Key Shift ↑"
        onclick={() => before && add(order(chosen, "before", before))}>Earlier</button
      >
      <button
        class={button}
        disabled={!next}
        title="Later in the document. Key Shift ↓"
        onclick={() => next && add(order(chosen, "after", next))}>Later</button
      >
      <button
        class={button}
        disabled={!next}
        title="A group of this part and the next. Key w"
        onclick={() => next && add(wrap(chosen, next))}>Group with the next</button
      >
      <button
        class={button}
        disabled={!inner.length}
        title="What is in it belongs where it stands. Key u"
        onclick={() => add(unwrap(chosen))}>Ungroup</button
      >
      {#if chosen.kind === "text"}
        <button
          class={button}
          disabled={next?.kind !== "text"}
          title="One text with the next. Key j"
          onclick={() => next && add(join(chosen, next))}>Join with the next</button
        >
        {#if chosen.rect.h > 30}
          <button
            class={button}
            title="Two texts, parted in the middle"
            onclick={() => add(divide(chosen, chosen.rect.y + chosen.rect.h / 2))}>Divide</button
          >
        {/if}
      {/if}
      <button
        class={[button, liking && "border-firn bg-firn/15"]}
        aria-pressed={liking !== undefined}
        title="Choose the part that it shall be like. Key k"
        onclick={() => onlike(liking ? undefined : chosen)}
        >{liking ? "Like which? Choose it" : "Make it like…"}</button
      >
    </div>

    <h3 class="mt-4 font-semibold">
      HTML <span class="font-normal text-ash">lines {chosen.lines.join("–")}</span>
    </h3>
    <pre class="mt-1 max-h-40 overflow-auto bg-snow p-2 font-mono text-xs leading-5">{html
        .slice(0, 60)
        .map((l) => l.slice(Math.min(html[0]?.search(/\S/) ?? 0, l.search(/\S|$/))))
        .join("\n")}</pre>
  {:else}
    <h2 class="font-semibold">Outline</h2>
    <p class="mt-1 text-ash">
      {tree.parts.length} parts. Choose one in the margin, on the picture or in the code, or walk them with the
      arrow keys: up and down to the next, left to what is around it, right into it.
    </p>
    <h3 class="mt-4 font-semibold">Check <span class="font-normal text-ash">of its structure</span></h3>
    {#if checks.length}
      <ul class="mt-1">
        {#each checks as c, i (i)}
          <li class="border-b border-drift">
            <button
              class="w-full py-1 text-left hover:text-firn"
              onclick={() => onchoose(tree.parts.find((p) => p.id === c.node))}
            >
              <b class={["font-semibold", c.weight >= 3 && "text-signal"]}>{c.kind}</b>
              <span class="text-ash">{c.text}</span>
            </button>
          </li>
        {/each}
      </ul>
    {:else}
      <p class="mt-1 text-ash">Headings, landmarks, labels, descriptions and contrast are in order.</p>
    {/if}
  {/if}
  <div class="mt-6"><PinList {project} {onchange} /></div>
</aside>
