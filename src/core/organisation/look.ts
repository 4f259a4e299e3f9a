/** What an archive of an organisation holds, before it is brought in. */
export interface ArchiveLook {
  organisation: string;
  /** ISO 8601, UTC. */
  takenAt: string;
  people: number;
  posts: number;
  sends: number;
  uploads: number;
}
