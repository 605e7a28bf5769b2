<script lang="ts">
  // The field in which a peak is named, at its apex.
  import type { Compound } from "../../api/client";
  import type { Shown } from "../../plot/Chromatogram.svelte";
  import type { Frame } from "../../plot/frame";

  let {
    f,
    peak,
    y,
    list,
    name,
    leave,
  }: {
    f: Frame;
    peak: Shown;
    /** The signal at the apex. */
    y: number;
    list: Compound[];
    name: (text: string) => void;
    leave: () => void;
  } = $props();

  const wide = 190;
  const x = $derived(Math.max(f.x0, Math.min(f.x1 - wide, f.sx(peak.apex_min) - wide / 2)));
  const top = $derived(Math.max(2, f.sy(y) - 37));
  let typed = $derived(peak.name);
  let field = $state<HTMLInputElement>();
  $effect(() => {
    void peak.number;
    queueMicrotask(() => field?.select());
  });
</script>

<foreignObject role="group" aria-label="Naming" {x} y={top} width={wide} height="32" onpointerdown={(e) => e.stopPropagation()}>
  <form
    onsubmit={(e) => {
      e.preventDefault();
      if (typed.trim() && typed.trim() !== peak.name) name(typed.trim());
    }}
  >
    <input
      class="field"
      aria-label="Name of the peak"
      bind:this={field}
      bind:value={typed}
      placeholder="Name, then Enter"
      list="names"
      maxlength="100"
      autocomplete="off"
      onkeydown={(e) => e.key === "Escape" && leave()}
    />
    <datalist id="names"
      >{#each list as c (c.id)}<option value={c.name}></option>{/each}</datalist
    >
  </form>
</foreignObject>

<style>
  .field {
    width: 100%;
    height: 31px;
    text-align: center;
    background: var(--sheet);
    color: var(--ink);
    border-bottom: 2px solid var(--ai);
  }
  :global([data-light="night"]) .field {
    background: var(--paper-3);
  }
</style>
