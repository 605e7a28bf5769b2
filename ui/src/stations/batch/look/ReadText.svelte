<script lang="ts">
  // A delimited text, read by acting on its own lines: what each line and each column holds. The trace is drawn as it is read; what cannot be read says where.
  import { createQuery } from "@tanstack/svelte-query";
  import { untrack } from "svelte";
  import { answer, api, Problem, type Batch, type Profile, type SeenSo } from "../../../api/client";
  import { count, fixed } from "../../../look/number";
  import { keys } from "../../../state/keys.svelte";
  import { look } from "./look.svelte";

  let { batch, id }: { batch: Batch; id: string } = $props();
  const file = $derived(look.files.find((f) => f.id === id));
  const seen = createQuery(() => ({
    queryKey: ["look-text", batch.id, id],
    queryFn: () => answer(api.GET("/api/batches/{batch}/looks/{look}/text", { params: { path: { batch: batch.id, look: id } } })),
  }));
  let changed = $state<Profile | null>(untrack(() => look.profiles[id] ?? null));
  const profile = $derived(changed ?? seen.data?.proposal.profile);
  let so = $state<SeenSo | null>(null);
  let trouble = $state("");
  $effect(() => {
    const asked = profile;
    if (!asked) return;
    const wait = setTimeout(() => {
      answer(
        api.POST("/api/batches/{batch}/looks/try", {
          params: { path: { batch: batch.id } },
          body: { id, profile: $state.snapshot(asked) },
        }),
      )
        .then((got) => ((so = got), (trouble = "")))
        .catch((e) => (trouble = e instanceof Problem ? e.message : "It could not be read."));
    }, 120);
    return () => clearTimeout(wait);
  });

  const change = (to: Partial<Profile>) => profile && (changed = { ...profile, ...to });
  type Role =
    | "names"
    | "units"
    | "first"
    | "sample_name"
    | "sample_id"
    | "sample_type"
    | "vial"
    | "acquired_at"
    | "operator"
    | "method"
    | "condition"
    | "";
  const roles: [Role, string][] = [
    ["", "nothing"],
    ["names", "names"],
    ["units", "units"],
    ["first", "first numbers"],
    ["sample_name", "sample"],
    ["sample_id", "sample id"],
    ["sample_type", "kind of sample"],
    ["vial", "vial"],
    ["acquired_at", "acquired"],
    ["operator", "operator"],
    ["method", "method"],
    ["condition", "condition"],
  ];
  function roleOf(line: number): Role {
    if (!profile) return "";
    if (line === profile.data_line) return "first";
    if (line === profile.heading_line) return "names";
    if (line === profile.units_line) return "units";
    const v = profile.values?.find((v) => v.line === line)?.says as Role | "nothing" | undefined;
    return v && v !== "nothing" ? v : "";
  }
  function setRole(line: number, role: Role) {
    if (!profile) return;
    const next: Profile = { ...profile, values: (profile.values ?? []).filter((v) => v.line !== line) };
    if (next.heading_line === line) next.heading_line = next.shape = undefined;
    if (next.units_line === line) next.units_line = undefined;
    if (role === "first") {
      next.data_line = line;
      next.values = next.values!.filter((v) => v.line < line);
      if ((next.heading_line ?? 0) >= line) next.heading_line = next.shape = undefined;
      if ((next.units_line ?? 0) >= line) next.units_line = undefined;
    } else if (role === "names") {
      next.heading_line = line;
      next.shape = seen.data?.lines[line - 1];
    } else if (role === "units") next.units_line = line;
    else if (role !== "") next.values = [...next.values!, { line, says: role }].toSorted((a, b) => a.line - b.line);
    changed = next;
  }
  const columns = $derived(
    Math.min(24, Math.max(0, ...(so?.fields ?? []).slice(profile ? profile.data_line - 1 : 0).map((f) => f.length))),
  );
  const columnOf = (c: number) => profile?.columns.find((k) => k.column === c);
  function setColumn(c: number, role: string) {
    if (!profile) return;
    const rest = profile.columns.filter((k) => k.column !== c);
    change({
      columns: (role ? [...rest, { ...columnOf(c), column: c, role: role as "time" | "signal" }] : rest).toSorted(
        (a, b) => a.column - b.column,
      ),
    });
  }
  const nameColumn = (c: number, part: "name" | "unit", text: string) =>
    profile && change({ columns: profile.columns.map((k) => (k.column === c ? { ...k, [part]: text || undefined } : k)) });

  const above = $derived(
    profile ? Math.min(seen.data?.lines.length ?? 0, Math.max(profile.data_line, seen.data?.proposal.profile.data_line ?? 0) + 7) : 0,
  );
  const others = $derived((so?.fits ?? []).filter((f) => f.id !== id));
  const fitting = $derived(others.filter((f) => !f.why));
  const odd = $derived(others.find((f) => f.why));
  const alike = $derived(
    `${fitting.length} of ${count(others.length, "other text")} here ${fitting.length === 1 ? "has" : "have"} this shape.${odd ? ` ${odd.file} has not: ${odd.why} It is held back, never bent to fit.` : ""}`,
  );
  const tab = "\t";
  let name = $state("");
  $effect(() => {
    if (!name && profile?.name) name = profile.name;
  });
  const stem = $derived(file?.file.replace(/[\d_.-]*\.[^.]*$/, "") || "text");
  async function keepForAll() {
    if (!profile) return;
    try {
      await look.keepProfile({ ...$state.snapshot(profile), name: name.trim() || stem });
      look.text = "";
    } catch (e) {
      trouble = e instanceof Problem ? e.message : "It could not be kept.";
    }
  }
  function onlyThis() {
    if (!profile) return;
    look.profiles = { ...look.profiles, [id]: $state.snapshot(profile) };
    look.files = look.files.map((f) =>
      f.id === id && so
        ? {
            ...f,
            status: "coming",
            message: "",
            sample_name: so.header.sample_name,
            acquired_at: so.header.acquired_at,
            signals: so.signals.map((s) => ({ name: s.name, unit: s.unit, kind: "detector", points: s.points })),
            silhouette: so.signals[0]?.heights ?? [],
          }
        : f,
    );
    look.text = "";
  }
  async function fromFile(e: Event) {
    const chosen = (e.currentTarget as HTMLInputElement).files?.[0];
    if (!chosen) return;
    try {
      changed = JSON.parse(await chosen.text()) as Profile;
      name = changed.name;
    } catch {
      trouble = `${chosen.name} is no profile: it is not JSON.`;
    }
  }
  function toFile() {
    const blob = new Blob([JSON.stringify({ ...$state.snapshot(profile), name: name.trim() || stem }, null, 2)], {
      type: "application/json",
    });
    const a = document.createElement("a");
    a.href = URL.createObjectURL(blob);
    a.download = `${name.trim() || stem}.profile.json`;
    a.click();
    URL.revokeObjectURL(a.href);
  }
  const good = $derived(so !== null && !so.problem);
  $effect(() => keys({ Enter: () => good && void keepForAll() }));
  const path = (heights: number[]) =>
    heights.map((v, i) => `${i ? "L" : "M"}${((i / (heights.length - 1)) * 1000).toFixed(1)} ${(96 - 88 * v).toFixed(1)}`).join("");
</script>

<div class="head">
  <h1>{file?.file}</h1>
  <span class="note">what do its lines hold? Proposed; press any of it to say otherwise.</span>
  <span class="tools"
    ><button class="lnk" onclick={() => (look.text = "")} title="Back to the files (Esc)"
      >back to the {count(look.files.length, "file")}</button
    ></span
  >
</div>
{#if seen.isError}<div class="empty">{seen.error.message}</div>
{:else if !profile || !seen.data}<div class="empty">Reading …</div>
{:else}
  <div class="roll" role="region" aria-label="Lines of the text">
    <div class="lines">
      {#each seen.data.lines.slice(0, above) as line, k (k)}
        {@const n = k + 1}
        {@const role = roleOf(n)}
        <div class="line" class:bad={so?.line === n} class:data={n >= profile.data_line} class:told={role !== "" && role !== "first"}>
          <select
            class="role"
            class:set={role !== ""}
            aria-label="Line {n} holds"
            title="What line {n} holds"
            value={role}
            onchange={(e) => setRole(n, e.currentTarget.value as Role)}
          >
            {#each roles as [value, word] (value)}<option {value}>{word}</option>{/each}
          </select>
          <span class="no">{n}</span>
          <code
            >{#if n >= profile.data_line || role === "names" || role === "units"}{#each so?.fields[k] ?? [line] as cell, c (c)}<span
                  class={columnOf(c + 1)?.role ?? ""}
                  class:wrong={so?.line === n && so?.column === c + 1}>{cell}</span
                >{/each}{:else}{line}{/if}</code
          >
        </div>
      {/each}
      <p class="note more">{count(Math.max(0, seen.data.lines.length + seen.data.more - above), "line")} more</p>
    </div>
    {#if so?.problem || trouble}<p class="att pad" role="alert">{trouble || so?.problem}</p>{/if}
    <table class="cols" aria-label="Columns">
      <thead><tr><th class="l">Column</th><th class="l">Holds</th><th class="l">Name</th><th class="l">Unit</th></tr></thead>
      <tbody>
        {#each Array.from({ length: columns }, (_, c) => c + 1) as c (c)}
          {@const k = columnOf(c)}
          <tr>
            <td class="l">{c}</td>
            <td class="l"
              ><select
                class="field"
                aria-label="Column {c} holds"
                title="What column {c} holds"
                value={k?.role ?? ""}
                onchange={(e) => setColumn(c, e.currentTarget.value)}
              >
                <option value="">not read</option><option value="time">time</option><option value="signal">signal</option>
              </select></td
            >
            <td class="l"
              >{#if k?.role === "signal"}<input
                  class="field"
                  aria-label="Name of column {c}"
                  title="Another name than the file has"
                  placeholder={so?.signals[profile.columns.filter((o) => o.role === "signal").findIndex((o) => o.column === c)]?.name ?? ""}
                  value={k.name ?? ""}
                  onchange={(e) => nameColumn(c, "name", e.currentTarget.value)}
                />{/if}</td
            >
            <td class="l"
              >{#if k?.role === "signal"}<input
                  class="field unit"
                  aria-label="Unit of column {c}"
                  title="Another unit than the file has"
                  placeholder={so?.signals[profile.columns.filter((o) => o.role === "signal").findIndex((o) => o.column === c)]?.unit ?? ""}
                  value={k.unit ?? ""}
                  onchange={(e) => nameColumn(c, "unit", e.currentTarget.value)}
                />{/if}</td
            >
          </tr>
        {/each}
      </tbody>
    </table>
    {#if good}
      <h2 class="pad">As read</h2>
      {#each so?.signals ?? [] as s, k (k)}
        <div class="seen">
          <span
            >{s.name}{s.unit ? `, ${s.unit}` : ""}<br /><span class="mut"
              >{s.points} points, {fixed(s.from_min, 2)} – {fixed(s.to_min, 2)} min</span
            ></span
          >
          <svg viewBox="0 0 1000 100" preserveAspectRatio="none" role="img" aria-label="{s.name} as read"
            ><path d={path(s.heights)} fill="none" stroke="var(--ink)" vector-effect="non-scaling-stroke" /></svg
          >
        </div>
      {/each}
    {/if}
  </div>
  <div class="how">
    <label
      >Parted by <select
        class="field"
        title="What stands between columns"
        value={profile.delimiter}
        onchange={(e) => change({ delimiter: e.currentTarget.value })}
      >
        <option value=",">comma</option><option value=";">semicolon</option><option value={tab}>tab</option><option value=" ">blanks</option
        ><option value="|">bar</option>
      </select></label
    >
    <label
      >Decimal mark <select
        class="field"
        title="The mark before decimals"
        value={profile.decimal}
        onchange={(e) => change({ decimal: e.currentTarget.value })}
      >
        <option value=".">point</option><option value=",">comma</option>
      </select></label
    >
    <label
      >Time in <select
        class="field"
        title="The unit of the times"
        value={profile.time_unit}
        onchange={(e) => change({ time_unit: e.currentTarget.value as Profile["time_unit"] })}
      >
        {#each ["min", "s", "ms", "h"] as u (u)}<option value={u}>{u}</option>{/each}
      </select></label
    >
    <label
      >Signals in <select
        class="field"
        title="Side by side, or one table after the other"
        value={profile.layout ?? ""}
        onchange={(e) => change({ layout: (e.currentTarget.value || undefined) as Profile["layout"] })}
      >
        <option value="">columns</option><option value="blocks">blocks</option>
      </select></label
    >
    <label
      >Dates <select
        class="field"
        title="The order of day, month and year"
        value={profile.date_order ?? ""}
        onchange={(e) => change({ date_order: (e.currentTarget.value || undefined) as Profile["date_order"] })}
      >
        <option value="">year first</option><option value="dmy">day first</option><option value="mdy">month first</option>
      </select></label
    >
    <label
      >Encoding <select
        class="field"
        title="How its signs are written"
        value={profile.encoding ?? ""}
        onchange={(e) => change({ encoding: e.currentTarget.value || undefined })}
      >
        <option value="">found</option>{#each ["utf-8", "utf-16le", "utf-16be", "windows-1252"] as e (e)}<option value={e}>{e}</option
          >{/each}
      </select></label
    >
  </div>
  {#each seen.data.proposal.guesses as g (g)}<p class="cau pad">{g}</p>{/each}
  <div class="keep">
    <label>Keep this reading as <input class="field" title="The name of the profile" placeholder={stem} bind:value={name} /></label>
    <button
      class="btn pri"
      disabled={!good}
      title="Keeps the profile with the study; files of its shape are read so from now on"
      onclick={keepForAll}>{fitting.length ? `Read all ${fitting.length + 1} so` : "Keep and read so"} <kbd>Enter</kbd></button
    >
    <button class="btn" disabled={!good} title="Reads this file so, and keeps no profile" onclick={onlyThis}>Only this one</button>
    <button class="lnk" title="Writes the profile as JSON" onclick={toFile}>to a file</button>
    <label class="lnk" title="Reads a profile from JSON"
      >from a file<input type="file" accept=".json,application/json" hidden onchange={fromFile} /></label
    >
  </div>
  {#if others.length > 0}<p class="note pad">{alike}</p>{/if}
{/if}

<style>
  .pad {
    padding: 4px 16px;
  }
  .lines {
    padding: 0 16px;
    font-size: 12.5px;
  }
  .line {
    display: grid;
    grid-template-columns: 104px 34px minmax(0, 1fr);
    align-items: center;
    min-height: 24px;
    white-space: nowrap;
    overflow: hidden;
  }
  .line.bad {
    background: var(--row-kaki);
  }
  .role {
    appearance: none;
    border: 0;
    background: none;
    color: var(--ink-3);
    font: inherit;
    min-height: 24px;
    text-align: right;
    padding-right: 8px;
    cursor: pointer;
  }
  .role.set {
    color: var(--ai);
    font-weight: 600;
  }
  .no {
    color: var(--ink-3);
    text-align: right;
    padding-right: 10px;
    font-size: 11.5px;
  }
  code {
    font-size: 12.5px;
    overflow: hidden;
    text-overflow: ellipsis;
  }
  code span {
    padding: 1px 6px;
    margin-right: 2px;
  }
  code .time {
    background: var(--row-ai);
  }
  code .signal {
    background: var(--mist-1);
  }
  code .wrong {
    background: var(--kaki);
    color: var(--paper);
  }
  .told code {
    font-weight: 600;
  }
  .more {
    padding-left: 138px;
  }
  .cols {
    margin: 6px 16px;
    width: auto;
    min-width: 420px;
  }
  .cols .field {
    font-size: 12.5px;
  }
  .unit {
    width: 80px;
  }
  .seen {
    display: grid;
    grid-template-columns: 190px minmax(0, 1fr);
    gap: 12px;
    align-items: center;
    padding: 2px 16px;
    font-size: 12.5px;
  }
  .seen svg {
    width: 100%;
    height: 64px;
  }
  .how,
  .keep {
    display: flex;
    flex-wrap: wrap;
    gap: 4px 16px;
    align-items: center;
    padding: 6px 16px;
    font-size: 12.5px;
    border-top: 1px solid var(--mist-2);
  }
</style>
