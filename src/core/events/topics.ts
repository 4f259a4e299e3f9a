/** What a topic looks like: what it is of, and where there are several of these the id. */
export const TOPIC =
  /^(desk|people|arrivals|shelf|calendar|automations|gateways|(board|post|person|roll|occurrence|draft|group|session|automation|sheet|hook-in|hook-out):[1-9]\d{0,14})$/;

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
