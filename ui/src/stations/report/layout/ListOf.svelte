<script lang="ts">
  // A few of several things.
  let {
    label,
    all,
    chosen,
    words = {},
    choose,
  }: { label: string; all: string[]; chosen: string[]; words?: Record<string, string>; choose: (list: string[]) => void } = $props();
  const toggle = (one: string) => choose(all.filter((a) => (a === one ? !chosen.includes(a) : chosen.includes(a))));
</script>

<fieldset>
  <legend>{label}</legend>
  <div>
    {#each all as one (one)}
      <label class="chk"
        ><input type="checkbox" title="{label}: {words[one] ?? one}" checked={chosen.includes(one)} onchange={() => toggle(one)} />{words[
          one
        ] ?? one}</label
      >
    {/each}
  </div>
</fieldset>

<style>
  fieldset {
    display: grid;
    grid-template-columns: 104px minmax(0, 1fr);
    gap: 8px;
    font-size: 12.5px;
    margin: 5px 0;
    min-width: 0;
  }
  legend {
    float: left;
    color: var(--ink-2);
  }
  div {
    display: flex;
    flex-wrap: wrap;
    gap: 2px 12px;
    max-height: 132px;
    overflow: auto;
  }
</style>
