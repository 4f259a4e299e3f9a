/** An issue of a series as a reader may open it. */
export interface IssueLine {
  occurrenceId: number;
  title: string;
  category: string;
  number: number | null;
  dueMs: number;
  path: string;
}

/** The index of a series: its issues that a reader may open, the latest first. */
export interface SeriesIndex {
  id: number;
  name: string;
  categories: string[];
  issues: IssueLine[];
}
