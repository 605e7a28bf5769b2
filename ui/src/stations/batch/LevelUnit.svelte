<script lang="ts">
  // The unit of the levels, asked once where levels are first given and nobody has said what they are in.
  import type { Batch } from "../../api/client";
  import { desk } from "../../state/desk.svelte";

  let { batch }: { batch: Batch } = $props();
  const memory = $derived(`yugen-unit-${batch.id}`);
  let said = $state(false);
  const method = $derived(batch.version.method);
  const asks = $derived(
    !said &&
      batch.version.number === 1 &&
      method.compounds.length === 0 &&
      !batch.choices.agreed?.includes("levels") &&
      !localStorage.getItem(memory) &&
      batch.injections.some((i) => i.level !== null),
  );
  async function keep(unit: string) {
    if (
      unit &&
      unit !== method.curves.unit &&
      !(await desk.saveMethod({ ...method, curves: { ...method.curves, unit } }, `levels in ${unit}`))
    )
      return;
    localStorage.setItem(memory, "said");
    said = true;
  }
</script>

{#if asks}
  <form
    class="asks"
    onsubmit={(e) => {
      e.preventDefault();
      void keep(new FormData(e.currentTarget).get("unit")!.toString().trim());
    }}
  >
    <label
      >Of what are the levels? <input
        class="field"
        name="unit"
        value={method.curves.unit}
        maxlength="20"
        title="The unit of all levels, as mg/L, µg/mL or mmol/L"
      /></label
    >
    <button class="lnk" title="Keeps this unit for all levels">all in this unit</button>
  </form>
{/if}

<style>
  .asks {
    display: flex;
    align-items: baseline;
    gap: 12px;
    margin: 0 12px 0 16px;
    padding: 4px 8px;
    background: var(--row-kaki);
    color: var(--kaki-text);
    font-size: 12.5px;
  }
  .field {
    width: 70px;
    height: 24px;
  }
  .lnk {
    min-height: 24px;
  }
</style>
