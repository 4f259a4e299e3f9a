/** The topics live updates are named by: something of it changed, fetch it again. */
export const topics = {
  desk: 'desk',
  board: (id: number): string => `board:${id}`,
  roll: (occurrenceId: number): string => `roll:${occurrenceId}`,
  draft: (announcementId: number): string => `draft:${announcementId}`,
  occurrence: (id: number): string => `occurrence:${id}`,
} as const;
