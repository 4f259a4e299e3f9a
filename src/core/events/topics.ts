/** The topics live updates are named by: something of it changed, fetch it again. */
export const topics = {
  desk: 'desk',
  board: (id: number): string => `board:${id}`,
  post: (id: number): string => `post:${id}`,
  person: (id: number): string => `person:${id}`,
  /** Something reached inboxes, or stands on a board: whoever looks at For me looks again. */
  arrivals: 'arrivals',
  shelf: 'shelf',
  calendar: 'calendar',
  session: (id: number): string => `session:${id}`,
  automations: 'automations',
  automation: (id: number): string => `automation:${id}`,
  sheet: (id: number): string => `sheet:${id}`,
  gateways: 'gateways',
  hookIn: (id: number): string => `hook-in:${id}`,
  hookOut: (id: number): string => `hook-out:${id}`,
  people: 'people',
  group: (id: number): string => `group:${id}`,
  roll: (occurrenceId: number): string => `roll:${occurrenceId}`,
  draft: (announcementId: number): string => `draft:${announcementId}`,
  occurrence: (id: number): string => `occurrence:${id}`,
} as const;
