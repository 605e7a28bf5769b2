<script lang="ts">
  import { Dialog, Portal } from "@skeletonlabs/skeleton-svelte";
  import { reason } from "../state/reason.svelte";

  let text = $state("");
  let field = $state<HTMLInputElement>();
  /** The Enter that opened the question must not answer it, nor one that is held down: only what was begun here, or what comes long after (a click that a reader of screens makes). */
  const grace = 2000;
  let opened = 0;
  let begun = false;
  $effect(() => {
    if (reason.open) {
      text = "";
      opened = performance.now();
      begun = false;
      queueMicrotask(() => field?.focus());
    }
  });
</script>

<Dialog open={reason.open} onOpenChange={(d) => !d.open && reason.open && reason.answer(null)} initialFocusEl={() => field ?? null}>
  <Portal>
    <Dialog.Backdrop class="reason-veil" />
    <Dialog.Positioner class="reason-place">
      <Dialog.Content class="reason-sheet">
        <Dialog.Title><span class="title">{reason.title}</span></Dialog.Title>
        {#if reason.detail}<Dialog.Description><span class="note">{reason.detail}</span></Dialog.Description>{/if}
        <form
          onsubmit={(e) => {
            e.preventDefault();
            if (text.trim() || (!reason.needed && (begun || performance.now() - opened > grace))) reason.answer(text.trim());
          }}
        >
          <label class="note" for="reason"
            >{reason.needed ? "Why? It goes into the record." : "Why? It goes into the record; Enter alone keeps it without."}</label
          >
          <input
            id="reason"
            class="field"
            bind:this={field}
            bind:value={text}
            maxlength="500"
            autocomplete="off"
            onkeydown={(e) => {
              begun ||= !e.repeat;
              if (e.key === "Enter" && e.repeat) e.preventDefault();
            }}
          />
          {#if reason.recent.length > 0}
            <div class="recent">
              {#each reason.recent as r (r)}<button type="button" class="lnk" onclick={() => reason.answer(r)}>{r}</button>{/each}
            </div>
          {/if}
          <div class="acts">
            <button
              class="btn pri"
              disabled={reason.needed && !text.trim()}
              onpointerdown={() => (begun = true)}
              onkeydown={(e) => (begun ||= !e.repeat)}>Keep <kbd>Enter</kbd></button
            >
            <button type="button" class="btn" onclick={() => reason.answer(null)}>Leave it <kbd>Esc</kbd></button>
          </div>
        </form>
      </Dialog.Content>
    </Dialog.Positioner>
  </Portal>
</Dialog>

<style>
  :global(.reason-veil) {
    position: fixed;
    inset: 0;
    background: var(--veil);
    z-index: 30;
  }
  :global(.reason-place) {
    position: fixed;
    inset: 0;
    display: grid;
    place-items: start center;
    padding-top: 150px;
    z-index: 31;
  }
  :global(.reason-sheet) {
    background: var(--paper);
    border: 1px solid var(--ink-3);
    padding: 16px 20px;
    width: 420px;
  }
  .title {
    font: 500 17px/1.3 var(--f-read);
  }
  form {
    display: grid;
    gap: 6px;
    margin-top: 10px;
  }
  .recent {
    display: flex;
    flex-wrap: wrap;
    gap: 4px 14px;
    font-size: 12px;
  }
  .acts {
    display: flex;
    gap: 10px;
    margin-top: 8px;
  }
</style>
