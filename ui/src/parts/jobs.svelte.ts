class JobsPanel {
  open = $state(false);
}

/** Whether what is worked on is looked at. */
export const jobsPanel = new JobsPanel();
