<script lang="ts">
  // Where a compound is expected, how wide its window is, which peak wins in it, and what it is for.
  import type { Compound, Method, Peak } from "../../api/client";
  import type { Place } from "./table";
  import Choice from "../../parts/Choice.svelte";
  import { above0 } from "../../state/held";

  let {
    compound,
    method,
    there,
    at,
    set,
    setRole,
  }: {
    compound: Compound;
    method: Method;
    /** The peaks of the shown injection that are in the window. */
    there: Peak[];
    /** Where it is expected in the shown injection. */
    at: Place;
    set: (change: Partial<Compound>, what: string) => void;
    setRole: (to: Compound["role"]) => void;
  } = $props();

  const number = (text: string) => Number(text.replace(",", "."));
  const shown = (v: number) => Number(v.toPrecision(3));
  /** The same window in another unit. */
  function inUnit(kind: Compound["window"]["kind"]) {
    const value = kind === "percent" ? (100 * at.half_min) / at.expected_min : kind === "index" ? 10 : at.half_min;
    set(
      { window: { kind, value: shown(value) } },
      `window in ${kind === "percent" ? "percent" : kind === "index" ? "index units" : "minutes"}`,
    );
  }
</script>

<section aria-label="Window and rule">
  <h2>{compound.name}</h2>
  <div class="set">
    <label for="expected">Expected, min</label><input
      id="expected"
      title="The retention time at which its peak is looked for"
      class="field num"
      value={compound.expected_min}
      onchange={(e) =>
        above0(e.currentTarget.value) && set({ expected_min: number(e.currentTarget.value) }, `expected at ${e.currentTarget.value} min`)}
    />
  </div>
  <div class="set">
    <label for="window"
      >Window, ± {compound.window.kind === "percent" ? "%" : compound.window.kind === "index" ? "index units" : "min"}</label
    ><input
      id="window"
      title="How far its peak may stand from the expected time"
      class="field num"
      value={compound.window.value}
      onchange={(e) =>
        above0(e.currentTarget.value) &&
        set({ window: { ...compound.window, value: number(e.currentTarget.value) } }, `window ± ${e.currentTarget.value}`)}
    />
  </div>
  <div class="set">
    <span>Window in</span><Choice
      label="Window in"
      options={[["absolute", "min"], ["percent", "%"], ...(compound.index ? ([["index", "index"]] as ["index", string][]) : [])]}
      value={compound.window.kind}
      choose={(kind) => inUnit(kind)}
    />
  </div>
  <div class="set wins">
    <span title="Where several peaks lie in the window, the one that the compound takes">Peak taken</span><Choice
      label="Peak taken"
      options={[
        ["nearest", "nearest"],
        ["largest", "largest"],
        ["first", "first"],
        ["last", "last"],
      ]}
      value={compound.rule}
      choose={(rule) => set({ rule }, `takes the ${rule} peak`)}
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
        title="What every injection holds of the internal standard"
        class="field num"
        value={compound.amount ?? ""}
        onchange={(e) =>
          above0(e.currentTarget.value) &&
          set({ amount: number(e.currentTarget.value) }, `${e.currentTarget.value} ${method.curves.unit} in each injection`)}
      />
    </div>
  {:else}
    <div class="set">
      <label for="parted">Resolution at least</label><input
        id="parted"
        title="A smaller resolution becomes a notice"
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
  <div class="set">
    <label class="chk" title="Its peak is named first, and the expected times of the others follow it"
      ><input
        type="checkbox"
        checked={compound.reference ?? false}
        onchange={(e) =>
          set({ reference: e.currentTarget.checked || undefined }, e.currentTarget.checked ? "a reference for the others" : "no reference")}
      />a reference: the others move with it</label
    >
  </div>
  {#if method.ladder && !compound.reference}
    <div class="set">
      <label for="index">Retention index</label><input
        id="index"
        title="Where it is expected on the ladder of alkanes, in place of a time"
        class="field num"
        value={compound.index || ""}
        placeholder="by time"
        onchange={(e) =>
          set({ index: number(e.currentTarget.value) || undefined }, `retention index ${e.currentTarget.value || "not used"}`)}
      />
    </div>
  {/if}
  {#if compound.min_resolution}
    <div class="set">
      <label for="to">Resolution to</label><select
        id="to"
        class="field"
        value={compound.resolution_to ?? ""}
        onchange={(e) =>
          set({ resolution_to: e.currentTarget.value || undefined }, `resolution to ${e.currentTarget.selectedOptions[0]?.text}`)}
      >
        <option value="">the previous peak</option>
        {#each method.compounds.filter((c) => c.id !== compound.id) as c (c.id)}<option value={c.id}>{c.name}</option>{/each}
      </select>
    </div>
  {/if}
  {#if compound.role === "target"}
    <div class="set">
      <label for="group">Group</label><input
        id="group"
        title="Compounds of one group are summed in the results"
        class="field"
        value={compound.group ?? ""}
        placeholder="none"
        maxlength="100"
        onchange={(e) =>
          set(
            { group: e.currentTarget.value.trim() || undefined },
            e.currentTarget.value.trim() ? `in the group ${e.currentTarget.value.trim()}` : "in no group",
          )}
      />
    </div>
    <div class="set">
      <label for="molar">Molar mass, g/mol</label><input
        id="molar"
        title="Turns mass into amount of substance and back"
        class="field num"
        value={compound.molar_mass || ""}
        placeholder="not known"
        onchange={(e) =>
          set({ molar_mass: number(e.currentTarget.value) || undefined }, `molar mass ${e.currentTarget.value || "not known"}`)}
      />
    </div>
    <div class="set">
      <label for="mix">In the mixture</label><input
        id="mix"
        title="Only standards of this mixture hold it; empty is all of them"
        class="field"
        value={compound.mix ?? ""}
        placeholder="any"
        maxlength="100"
        onchange={(e) =>
          set(
            { mix: e.currentTarget.value.trim() || undefined },
            e.currentTarget.value.trim() ? `only in standards of the mixture ${e.currentTarget.value.trim()}` : "in every standard",
          )}
      />
    </div>
  {/if}
  <p class="note">
    {#if there.length === 0}No peak of this injection is in the window.
    {:else if there.length === 1}One peak is in the window.
    {:else}{there.length === 1 ? "1 peak is" : `${there.length} peaks are`} in the window; under each stands by which rule it would win.{/if}
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
