<script lang="ts">
  // Where a compound is expected, how wide its window is, which peak wins in it, and what it is for.
  import type { Compound, Method, Peak } from "../../api/client";
  import Choice from "../../parts/Choice.svelte";

  let {
    compound,
    method,
    there,
    half,
    set,
    setRole,
  }: {
    compound: Compound;
    method: Method;
    /** The peaks of the shown injection that are in the window. */
    there: Peak[];
    half: (c: Compound) => number;
    set: (change: Partial<Compound>, what: string) => void;
    setRole: (to: Compound["role"]) => void;
  } = $props();

  const number = (text: string) => Number(text.replace(",", "."));
  const least = (list: Peak[], of: (p: Peak) => number) => list.reduce((a, b) => (of(b) < of(a) ? b : a));
  /** What each rule would choose. */
  const rules: [word: string, winner: (list: Peak[]) => Peak][] = [
    ["nearest", (list) => least(list, (p) => Math.abs(p.apex_min - compound.expected_min))],
    ["largest", (list) => least(list, (p) => -p.area_s)],
    ["first", (list) => least(list, (p) => p.apex_min)],
    ["last", (list) => least(list, (p) => -p.apex_min)],
  ];
</script>

<section aria-label="Window and rule">
  <h2>{compound.name}</h2>
  <div class="set">
    <label for="expected">Expected, min</label><input
      id="expected"
      class="field num"
      value={compound.expected_min}
      onchange={(e) =>
        number(e.currentTarget.value) > 0 &&
        set({ expected_min: number(e.currentTarget.value) }, `expected at ${e.currentTarget.value} min`)}
    />
  </div>
  <div class="set">
    <label for="window">Window, ± {compound.window.kind === "percent" ? "%" : "min"}</label><input
      id="window"
      class="field num"
      value={compound.window.value}
      onchange={(e) =>
        number(e.currentTarget.value) > 0 &&
        set({ window: { ...compound.window, value: number(e.currentTarget.value) } }, `window ± ${e.currentTarget.value}`)}
    />
  </div>
  <div class="set">
    <span>Window in</span><Choice
      label="Window in"
      options={[
        ["absolute", "min"],
        ["percent", "%"],
      ]}
      value={compound.window.kind}
      choose={(kind) =>
        set(
          {
            window: {
              kind,
              value: Number((kind === "percent" ? (100 * half(compound)) / compound.expected_min : half(compound)).toFixed(3)),
            },
          },
          `window in ${kind === "percent" ? "percent" : "minutes"}`,
        )}
    />
  </div>
  <div class="set wins">
    <span>Wins</span><Choice
      label="Which peak wins"
      options={[
        ["nearest", "nearest"],
        ["largest", "largest"],
        ["first", "first"],
        ["last", "last"],
      ]}
      value={compound.rule}
      choose={(rule) => set({ rule }, `the ${rule} peak wins`)}
    />
  </div>
  <div class="set">
    <span>Role</span><Choice
      label="Role"
      options={[
        ["target", "target"],
        ["internal_standard", "int. std"],
      ]}
      value={compound.role}
      choose={(to) => setRole(to)}
    />
  </div>
  {#if compound.role === "internal_standard"}
    <div class="set">
      <label for="amount">In each injection, {method.curves.unit}</label><input
        id="amount"
        class="field num"
        value={compound.amount ?? ""}
        onchange={(e) =>
          number(e.currentTarget.value) > 0 &&
          set({ amount: number(e.currentTarget.value) }, `${e.currentTarget.value} ${method.curves.unit} in each injection`)}
      />
    </div>
  {:else}
    <div class="set">
      <label for="parted">Resolution at least</label><input
        id="parted"
        class="field num"
        value={compound.min_resolution ?? ""}
        placeholder="not asked"
        onchange={(e) =>
          set(
            { min_resolution: number(e.currentTarget.value) || undefined },
            `resolution at least ${e.currentTarget.value || "not asked"}`,
          )}
      />
    </div>
  {/if}
  <p class="note">
    {#if there.length === 0}No peak of this injection is in the window.
    {:else if there.length === 1}One peak is in the window.
    {:else}{there.length} peaks are in the window. It would be
      {#each rules as [word, winner] (word)}{word}: {winner(there).apex_min.toFixed(2)}{word === "last" ? " min." : ", "}{/each}
    {/if}
  </p>
</section>

<style>
  .set {
    display: flex;
    justify-content: space-between;
    align-items: baseline;
    min-height: 27px;
    font-size: 12.5px;
  }
  .set .field {
    width: 84px;
    text-align: right;
  }
  .wins {
    flex-wrap: wrap;
    justify-content: space-between;
  }
</style>
