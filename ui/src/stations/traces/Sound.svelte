<script lang="ts">
  // Was the run sound? What left its limits, what kept to them, and the limits themselves.
  import type { Batch, Method, Result } from "../../api/client";
  import Mark from "../../parts/Mark.svelte";
  import { desk } from "../../state/desk.svelte";
  import { reason } from "../../state/reason.svelte";

  type Limit = NonNullable<Method["checks"]["conditions"]>[number];
  let {
    batch,
    result,
    injection,
    conditions,
    show,
  }: {
    batch: Batch;
    result: Result | undefined;
    injection: string;
    /** The conditions that this injection has. */
    conditions: { name: string; unit: string }[];
    show: (atMin: number) => void;
  } = $props();

  const limits = $derived(batch.version.method.checks.conditions ?? []);
  const noted = $derived((result?.notices ?? []).filter((n) => n.station === "traces" && n.injection_id === injection));
  const has = (l: Limit) => conditions.some((c) => c.name.toLowerCase() === l.name.toLowerCase() && c.unit === l.unit);
  const kept = $derived(limits.filter((l) => has(l) && !noted.some((n) => n.text.startsWith(l.name))));
  const words = (l: Limit) =>
    [
      l.low !== undefined && l.low !== null && l.high !== undefined && l.high !== null
        ? `${l.low} – ${l.high} ${l.unit}`
        : l.low !== undefined && l.low !== null
          ? `at least ${l.low} ${l.unit}`
          : l.high !== undefined && l.high !== null
            ? `at most ${l.high} ${l.unit}`
            : "",
      l.fall ? `no step over ${l.fall} ${l.unit} in ${l.within_s} s` : "",
      l.usual ? `within ${l.usual} ${l.unit} of most injections` : "",
    ]
      .filter(Boolean)
      .join(", ");

  let open = $state("");
  const free = $derived(conditions.filter((c) => !limits.some((l) => l.name === c.name && l.unit === c.unit)));
  const number = (text: string) => {
    const v = Number(text.replace(",", "."));
    return text.trim() === "" || !Number.isFinite(v) ? undefined : v;
  };
  async function save(list: Limit[], what: string) {
    const why = await reason.ask(what);
    if (why) await desk.saveMethod({ ...batch.version.method, checks: { ...batch.version.method.checks, conditions: list } }, why);
  }
  const fields: [key: "low" | "high" | "fall" | "within_s" | "usual" | "from_min" | "to_min", word: (l: Limit) => string][] = [
    ["low", (l) => `At least, ${l.unit}`],
    ["high", (l) => `At most, ${l.unit}`],
    ["fall", (l) => `No step over, ${l.unit}`],
    ["within_s", () => "within, s"],
    ["usual", (l) => `As in most ±, ${l.unit}`],
    ["from_min", () => "From, min"],
    ["to_min", () => "to, min"],
  ];
  /** A limit on a step needs its seconds, and the other way round. */
  function changed(l: Limit, key: (typeof fields)[number][0], v: number | undefined): Limit {
    const next = { ...l, [key]: v };
    if (key === "fall" && v && !next.within_s) next.within_s = 5;
    if (key === "fall" && !v) next.within_s = undefined;
    return next;
  }
</script>

<section aria-label="Was the run sound?">
  <h2>Was the run sound?</h2>
  {#each noted as n (n.key)}
    <div class="ntc">
      <span class="fl"><Mark name="look" /></span>
      <button class="what" title="Shows the moment" onclick={() => n.at_min !== undefined && n.at_min !== null && show(n.at_min)}
        >{n.text}</button
      >
      <button
        class="settle"
        title="Settle with a reason"
        onclick={async () => {
          const why = await reason.ask("Settle this notice", `${n.subject}: ${n.text}`, true);
          if (why) await desk.settle([n.key], why);
        }}>{batch.settled.includes(n.key) ? "settled" : "settle"}</button
      >
    </div>
  {/each}
  {#each kept as l (l.name + l.unit + l.from_min)}
    <p class="ok">✓ <span><b>{l.name}</b> {words(l)}</span></p>
  {/each}
  {#if limits.length === 0}<p class="note">
      {conditions.length ? "No limits are asked of the conditions yet." : "No pressure or gradient came with this injection."}
    </p>{/if}
  {#if conditions.length > 0 || limits.length > 0}
    <p class="edit">
      {#each limits as l, k (k)}
        <button
          class="lnk"
          aria-expanded={open === `${k}`}
          title="The limits of the method, for the whole batch"
          onclick={() => (open = open === `${k}` ? "" : `${k}`)}>{l.name}</button
        >
      {/each}
      {#if free.length > 0}
        <select
          class="field"
          aria-label="A limit on"
          title="Asks something of a condition, in every injection"
          value=""
          onchange={(e) => {
            const c = free.find((c) => c.name === e.currentTarget.value);
            e.currentTarget.value = "";
            if (c) void save([...limits, { name: c.name, unit: c.unit, usual: 1 }], `${c.name} as in most injections, ± 1 ${c.unit}`);
          }}
        >
          <option value="">a limit on …</option>
          {#each free as c (c.name)}<option value={c.name}>{c.name}</option>{/each}
        </select>
      {/if}
    </p>
    {#if open !== "" && limits[Number(open)]}
      {@const k = Number(open)}
      {@const l = limits[k]!}
      {#each fields as [key, word] (key)}
        <label class="set"
          ><span>{word(l)}</span><input
            class="field num"
            title="Empty asks nothing"
            placeholder="not asked"
            value={l[key] || (key === "low" || key === "high" ? (l[key] ?? "") : "")}
            onchange={(e) =>
              save(
                limits.map((o, i) => (i === k ? changed(o, key, number(e.currentTarget.value)) : o)),
                `${l.name}: ${word(l)} ${e.currentTarget.value || "not asked"}`,
              )}
          /></label
        >
      {/each}
      <button
        class="lnk"
        title="Asks nothing of it any more"
        onclick={() =>
          save(
            limits.filter((_, i) => i !== k),
            `no limit on ${l.name}`,
          )}>no limit on {l.name}</button
      >
    {/if}
  {/if}
</section>

<style>
  .ntc {
    display: grid;
    grid-template-columns: 18px minmax(0, 1fr) auto;
    gap: 0 4px;
    font-size: 12.5px;
    line-height: 19px;
    padding: 3px 0;
  }
  .what {
    text-align: left;
  }
  .settle {
    color: var(--ink-3);
    font-size: 12px;
    align-self: start;
  }
  .fl {
    color: var(--kaki);
    padding-top: 3px;
  }
  .ok {
    display: grid;
    grid-template-columns: 18px 1fr;
    font-size: 12.5px;
    line-height: 19px;
    color: var(--ink-2);
    padding: 3px 0;
  }
  .ok b {
    font-weight: 600;
  }
  .edit {
    display: flex;
    flex-wrap: wrap;
    gap: 4px 12px;
    align-items: baseline;
    padding-top: 6px;
    font-size: 12px;
  }
</style>
