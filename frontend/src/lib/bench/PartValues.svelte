<script lang="ts">
  import { declarations, isValue, kitFor, setDeclaration, snapped, type Declaration } from "../css";
  import { codeMutation } from "../queries";

  let {
    css,
    rules,
    project,
  }: { css: string; rules: { selector: string; body: string[] }[]; project: string } = $props();

  const code = codeMutation(() => project);
  let refused = $state("");

  /** Keep a value as somebody wants it: a change of the code like any other, undone like any other. */
  function set(of: Declaration, value: string) {
    const wanted = value.trim();
    if (wanted === of.value) return;
    const content = isValue(wanted) ? setDeclaration(css, of, wanted) : undefined;
    refused = content === undefined ? `“${wanted.slice(0, 40)}” is no value for ${of.name}.` : "";
    if (content !== undefined) code.mutate({ name: "styles.css", content });
  }
</script>

{#each rules as rule (rule.selector)}
  <table class="mt-1 w-full table-fixed" aria-label={`Values of ${rule.selector}`}>
    <caption class="text-left font-mono text-xs text-ash">{rule.selector}</caption>
    <tbody>
      {#each declarations(rule.selector, rule.body) as d (d.name)}
        {@const kit = kitFor(css, d.name)}
        {@const near = snapped(d.value, kit)}
        <tr class="border-b border-drift">
          <th scope="row" class="w-28 truncate py-0.5 text-left text-sm font-normal text-ash" title={d.name}
            >{d.name}</th
          >
          <td class="py-0.5 pl-1" colspan={near ? 1 : 2}>
            <input
              class="w-full border border-transparent bg-transparent px-0.5 text-right font-mono text-xs hover:border-drift focus:border-ink"
              value={d.value}
              title={d.value}
              list={`kit-${rule.selector}-${d.name}`}
              aria-label={`${d.name} of ${rule.selector}`}
              spellcheck="false"
              onchange={(e) => set(d, e.currentTarget.value)}
              onkeydown={(e) => {
                if (e.key === "Escape") e.currentTarget.value = d.value;
              }}
            />
            <datalist id={`kit-${rule.selector}-${d.name}`}>
              {#each kit as value (value)}<option {value}></option>{/each}
            </datalist>
          </td>
          {#if near}
            <td class="w-12 py-0.5 pl-1 text-right text-xs">
              <button
                class="text-ash underline hover:text-ink"
                title={`Snap to ${near}, which the page uses`}
                onclick={() => set(d, near)}>{near}</button
              >
            </td>
          {/if}
        </tr>
      {/each}
    </tbody>
  </table>
{/each}
{#if refused || code.isError}
  <p class="mt-1 text-sm text-signal" role="alert">{refused || code.error?.message}</p>
{/if}
