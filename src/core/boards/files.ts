/** In which order the files of a board are listed. */
export const FILE_ORDERS = ['newest', 'name', 'size'] as const;
export type FileOrder = (typeof FILE_ORDERS)[number];

/** A file that stands on a board: in a post, in a reply, or among its key links. */
export interface BoardFile {
  key: string;
  name: string;
  bytes: number;
  /** Where it can be read. */
  href: string;
  /** Where it stands: the title of the post, or that it is a key link. */
  where: string;
  /** The path of that place. */
  path: string;
  by: string;
  /** When it came to the board, in milliseconds since 1970; null for a key link. */
  atMs: number | null;
  archived: boolean;
}

export interface BoardFiles {
  board: { id: number; name: string };
  files: BoardFile[];
  /** Whether there are more than are listed. */
  more: boolean;
  /** Whether this person may archive one, or bring it back. */
  mayArchive: boolean;
}
