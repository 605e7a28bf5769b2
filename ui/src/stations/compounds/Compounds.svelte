<script lang="ts">
  // Naming: click a peak, type a name. Windows and their rules stand on the chromatogram; the table says which peak wins.
  import { createQuery } from "@tanstack/svelte-query";
  import type { Compound, Method } from "../../api/client";
  import { fixed, missing, significant } from "../../look/number";
  import Choice from "../../parts/Choice.svelte";
  import Foot from "../../parts/Foot.svelte";
  import Notices from "../../parts/Notices.svelte";
  import Chromatogram, { type Shown } from "../../plot/Chromatogram.svelte";
  import Minimap from "../../plot/Minimap.svelte";
  import { Window } from "../../plot/window.svelte";
  import { ask, desk, replicate } from "../../state/desk.svelte";
  import { keys } from "../../state/keys.svelte";
  import { place } from "../../state/place.svelte";
  import { reason } from "../../state/reason.svelte";
  import type { StationProps } from "../props";
  import Drift from "./Drift.svelte";

  let { batch, result, index }: StationProps = $props();
  const injection = $derived(batch.injections[index]);
  const method = $derived(batch.version.method);
  const trace = createQuery(() => ask.trace(batch.id, injection?.id ?? ""));
  const view = new Window();
  $effect(() => {
    const t = trace.data;
    if (t && t.min.length) view.run(t.min[0]!, t.min.at(-1)!);
  });
  let first = true;
  $effect(() => {
    const found = result?.injections[index]?.peaks;
    if (!first || !trace.data || !found?.length) return;
    first = false;
    view.show(found[0]!.start_min - 0.4, found.at(-1)!.end_min + 0.4, false);
  });

  const byId = $derived(new Map(method.compounds.map((c) => [c.id, c])));
  const peaks = $derived<Shown[]>(
    (result?.injections[index]?.peaks ?? []).map((p) => ({
      ...p,
      name: byId.get(p.compound_id)?.name ?? "",
      standard: byId.get(p.compound_id)?.role === "internal_standard",
    })),
  );
  const list = $derived(method.compounds.toSorted((a, b) => a.expected_min - b.expected_min));

  let selected = $state<number | null>(null);
  let hovered = $state<number | null>(null);
  let typed = $state("");
  let field = $state<HTMLInputElement>();
  const peak = $derived(peaks.find((p) => p.number === selected));
  const chosen = $derived(byId.get(place.query.c ?? ""));
  $effect(() => {
    const hit = peaks.find((p) => p.compound_id && p.compound_id === place.query.c);
    if (!hit) return;
    selected = hit.number;
    typed = hit.name;
  });

  function select(n: number | null) {
    selected = n;
    const p = peaks.find((q) => q.number === n);
    typed = p?.name ?? "";
    place.go({ query: { c: p?.compound_id ?? "" } }, false);
    if (p) queueMicrotask(() => field?.select());
  }
  const half = (c: Compound) =>
    c.window.kind === "percent" ? (c.expected_min * c.window.value) / 100 : c.window.value;
  const inWindow = (c: Compound) => peaks.filter((p) => Math.abs(p.apex_min - c.expected_min) <= half(c));
  const winner = (c: Compound) => peaks.find((p) => p.compound_id === c.id);

  const save = (compounds: Compound[], why: string, rest: Partial<Method> = {}) =>
    desk.saveMethod({ ...method, ...rest, compounds }, why);
  const freshId = (name: string) => {
    const stem =
      name
        .toLowerCase()
        .replace(/[^a-z0-9]+/g, "-")
        .replace(/^-|-$/g, "") || "compound";
    let id = stem;
    for (let n = 2; byId.has(id); n++) id = `${stem}-${n}`;
    return id;
  };
  async function name(e: SubmitEvent) {
    e.preventDefault();
    const text = typed.trim();
    if (!peak || !text) return;
    const own = byId.get(peak.compound_id);
    const same = method.compounds.find((c) => c.name === text);
    if (own && own.name !== text)
      await save(
        method.compounds.map((c) => (c.id === own.id ? { ...c, name: text } : c)),
        `${own.name} renamed ${text}`,
      );
    else if (same && !own)
      await save(
        method.compounds.map((c) => (c.id === same.id ? { ...c, expected_min: Number(peak.apex_min.toFixed(3)) } : c)),
        `${text} is expected at ${peak.apex_min.toFixed(3)} min`,
      );
    else if (!own) {
      const gap = Math.min(
        ...peaks.filter((p) => p.number !== peak.number).map((p) => Math.abs(p.apex_min - peak.apex_min)),
        0.4,
      );
      const id = freshId(text);
      const fresh: Compound = {
        id,
        name: text,
        expected_min: Number(peak.apex_min.toFixed(3)),
        window: { kind: "absolute", value: Number(Math.max(0.02, gap / 2).toFixed(3)) },
        rule: "nearest",
        role: "target",
      };
      if (await save([...method.compounds, fresh], `${text} named at ${peak.apex_min.toFixed(2)} min`))
        place.go({ query: { c: id } }, false);
    }
  }
  async function set(c: Compound, change: Partial<Compound>, what: string) {
    const why = await reason.ask(`${c.name}: ${what}`);
    if (why)
      await save(
        method.compounds.map((o) => (o.id === c.id ? { ...o, ...change } : o)),
        why,
      );
  }
  async function role(c: Compound, to: Compound["role"]) {
    const why = await reason.ask(`${c.name} is ${to === "target" ? "a target" : "the internal standard"}`);
    if (!why) return;
    await save(
      method.compounds.map((o) =>
        o.id === c.id
          ? { ...o, role: to, amount: to === "target" ? undefined : (o.amount ?? 1) }
          : to === "internal_standard"
            ? { ...o, role: "target", amount: undefined }
            : o,
      ),
      why,
    );
  }
  async function forget(c: Compound) {
    const why = await reason.ask(`Take ${c.name} off the list`);
    if (!why) return;
    const own = { ...method.curves.own };
    delete own[c.id];
    await save(
      method.compounds.filter((o) => o.id !== c.id),
      why,
      { curves: { ...method.curves, own } },
    );
  }
  const number = (text: string) => Number(text.replace(",", "."));
  $effect(() =>
    keys({ "0": () => view.all(), "<": () => view.back(), ">": () => view.forward(), Escape: () => select(null) }),
  );
</script>

<div class="stage rows">
  <main class="main">
    {#if !injection}
      <div class="empty">
        No injections yet. <button class="btn" onclick={() => place.go({ station: "batch" })}>Add files</button>
      </div>
    {:else}
      <div class="head">
        <h1>{injection.name} <em>{replicate(batch, index)}</em></h1>
        <span class="note"
          >{peaks.filter((p) => p.name).length} of {method.compounds.length} compounds found in {peaks.length} peaks</span
        >
        <span class="tools"><button onclick={() => view.all()}><kbd>0</kbd> whole run</button></span>
      </div>
      <Chromatogram
        trace={trace.data}
        unit={injection.unit || "signal"}
        {peaks}
        {selected}
        {hovered}
        {view}
        {select}
        hover={(n) => (hovered = n)}
      >
        {#snippet over(f)}
          {#each list as c (c.id)}
            {@const x0 = f.sx(c.expected_min - half(c))}
            {@const x1 = f.sx(c.expected_min + half(c))}
            {#if x1 > f.x0 && x0 < f.x1}
              <g
                style="color: var({c.id === chosen?.id ? '--kaki' : c.role === 'target' ? '--ai' : '--moss'})"
                pointer-events="none"
              >
                {#if c.id === chosen?.id}<rect
                    x={Math.max(f.x0, x0)}
                    y={f.y1 - 30}
                    width={Math.min(f.x1, x1) - Math.max(f.x0, x0)}
                    height={f.y0 - f.y1 + 30}
                    fill="currentColor"
                    opacity=".06"
                  />{/if}
                <path
                  d="M{Math.max(f.x0, x0)} {f.y0 - 3.5}v-5M{Math.min(f.x1, x1)} {f.y0 - 3.5}v-5M{Math.max(
                    f.x0,
                    x0,
                  )} {f.y0 - 6}H{Math.min(f.x1, x1)}"
                  stroke="currentColor"
                  stroke-width="1.2"
                  fill="none"
                />
                <path d="M{f.sx(c.expected_min)} {f.y0 - 9}v6" stroke="currentColor" stroke-width="1.2" />
              </g>
            {/if}
          {/each}
        {/snippet}
      </Chromatogram>
      <Minimap trace={trace.data} {view} />
      <div class="grid-wrap" role="region" aria-label="Compounds">
        <table>
          <thead
            ><tr
              ><th class="l">Compound</th><th class="l">Role</th><th>Expected, min</th><th class="l">Window</th><th
                class="l">Wins</th
              ><th>Found, min</th><th>Off by, min</th><th>In window</th><th></th></tr
            ></thead
          >
          <tbody>
            {#each list as c (c.id)}
              {@const won = winner(c)}
              {@const there = inWindow(c)}
              <tr
                class:sel={c.id === chosen?.id}
                class:hov={won && won.number === hovered}
                onclick={() => place.go({ query: { c: c.id } }, false)}
                onpointerenter={() => (hovered = won?.number ?? null)}
                onpointerleave={() => (hovered = null)}
              >
                <td class="l"
                  ><button class="nm" onclick={() => place.go({ query: { c: c.id } }, false)}>{c.name}</button></td
                >
                <td class="l sec">{c.role === "target" ? "target" : `int. std, ${c.amount} ${method.curves.unit}`}</td>
                <td>{fixed(c.expected_min, 3)}</td>
                <td class="l">± {c.window.value} {c.window.kind === "percent" ? "%" : "min"}</td>
                <td class="l sec">{c.rule}</td>
                <td class:mut={!won}>{won ? fixed(won.apex_min, 3) : missing}</td>
                <td class:mut={!won}>{won ? fixed(won.apex_min - c.expected_min, 3) : missing}</td>
                <td class:cau={there.length > 1}>{there.length}</td>
                <td
                  ><button
                    class="mut"
                    aria-label="Take {c.name} off the list"
                    onclick={(e) => (e.stopPropagation(), forget(c))}>×</button
                  ></td
                >
              </tr>
            {:else}
              <tr><td class="l mut" colspan="9">No compounds yet. Click a peak and type its name.</td></tr>
            {/each}
          </tbody>
        </table>
      </div>
    {/if}
  </main>
  <aside class="side">
    <section aria-label="Name a peak">
      <h2>{peak ? `Peak at ${peak.apex_min.toFixed(2)} min` : "Name a peak"}</h2>
      {#if peak}
        <form onsubmit={name}>
          <input
            class="field"
            aria-label="Name of the peak"
            bind:this={field}
            bind:value={typed}
            placeholder="Type its name"
            list="names"
            maxlength="100"
          />
          <datalist id="names"
            >{#each list as c (c.id)}<option value={c.name}></option>{/each}</datalist
          >
          <button class="btn pri" disabled={!typed.trim() || typed.trim() === peak.name}
            >{peak.name ? "Rename" : "Name it"}</button
          >
        </form>
        <p class="note">
          Area {significant(peak.area_s, 4)}
          {injection?.unit || "signal"}·s, {fixed(peak.area_percent, 2)} % of the trace.
        </p>
      {:else}<p class="note">
          Click a peak on the chromatogram, then type. The name appears on every injection at once.
        </p>{/if}
    </section>
    {#if chosen}
      {@const there = inWindow(chosen)}
      <section aria-label="Window and rule">
        <h2>{chosen.name}</h2>
        <div class="set">
          <label for="expected">Expected, min</label><input
            id="expected"
            class="field num"
            value={chosen.expected_min}
            onchange={(e) =>
              number(e.currentTarget.value) > 0 &&
              set(chosen, { expected_min: number(e.currentTarget.value) }, `expected at ${e.currentTarget.value} min`)}
          />
        </div>
        <div class="set">
          <label for="window">Window, ± {chosen.window.kind === "percent" ? "%" : "min"}</label><input
            id="window"
            class="field num"
            value={chosen.window.value}
            onchange={(e) =>
              number(e.currentTarget.value) > 0 &&
              set(
                chosen,
                { window: { ...chosen.window, value: number(e.currentTarget.value) } },
                `window ± ${e.currentTarget.value}`,
              )}
          />
        </div>
        <div class="set">
          <span>Window in</span><Choice
            label="Window in"
            options={[
              ["absolute", "min"],
              ["percent", "%"],
            ]}
            value={chosen.window.kind}
            choose={(kind) =>
              set(
                chosen,
                {
                  window: {
                    kind,
                    value: Number(
                      (kind === "percent" ? (100 * half(chosen)) / chosen.expected_min : half(chosen)).toFixed(3),
                    ),
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
            value={chosen.rule}
            choose={(rule) => set(chosen, { rule }, `the ${rule} peak wins`)}
          />
        </div>
        <div class="set">
          <span>Role</span><Choice
            label="Role"
            options={[
              ["target", "target"],
              ["internal_standard", "int. std"],
            ]}
            value={chosen.role}
            choose={(to) => role(chosen, to)}
          />
        </div>
        {#if chosen.role === "internal_standard"}
          <div class="set">
            <label for="amount">In each injection, {method.curves.unit}</label><input
              id="amount"
              class="field num"
              value={chosen.amount ?? ""}
              onchange={(e) =>
                number(e.currentTarget.value) > 0 &&
                set(
                  chosen,
                  { amount: number(e.currentTarget.value) },
                  `${e.currentTarget.value} ${method.curves.unit} in each injection`,
                )}
            />
          </div>
        {:else}
          <div class="set">
            <label for="parted">Resolution at least</label><input
              id="parted"
              class="field num"
              value={chosen.min_resolution ?? ""}
              placeholder="not asked"
              onchange={(e) =>
                set(
                  chosen,
                  { min_resolution: number(e.currentTarget.value) || undefined },
                  `resolution at least ${e.currentTarget.value || "not asked"}`,
                )}
            />
          </div>
        {/if}
        <p class="note">
          {#if there.length === 0}No peak of this injection is in the window.
          {:else if there.length === 1}One peak is in the window.
          {:else}{there.length} peaks are in the window; {there.map((p) => p.apex_min.toFixed(2)).join(", ")} min.{/if}
        </p>
      </section>
      <Drift {batch} {result} compound={chosen} half={half(chosen)} {index} />
    {/if}
    <Notices {batch} {result} station="compounds" />
  </aside>
  <Foot
    hints={[
      ["click", "choose a peak"],
      ["J", ""],
      ["K", "run order"],
      ["drag", "zoom"],
      ["0", "whole run"],
      ["Esc", "let go"],
    ]}>{desk.done || "Windows stand on the time axis"}</Foot
  >
</div>

<style>
  .rows {
    grid-template-rows: minmax(0, 1fr) 24px;
  }
  .grid-wrap {
    flex: 0 1 auto;
    max-height: 42%;
  }
  form {
    display: flex;
    gap: 10px;
    margin: 6px 0 4px;
  }
  form .field {
    flex: 1;
    font-size: 14px;
    height: 28px;
  }
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
  tbody tr {
    cursor: pointer;
  }
</style>
