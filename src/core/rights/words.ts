import type { Role } from '../audience/expression.ts';

/** What each role may do, as sentences that go on after its name; `moderator` is a member who looks after a board. */
export const ROLE_RIGHTS: Record<Role | 'moderator', readonly string[]> = {
  coordinator: [
    'writes and sends to everybody, clears what others wrote, and takes back what has not gone',
    'adds people and groups, invites, imports, and marks who has left',
    'gives and takes roles, and sets up boards, stations, holidays and quiet hours',
    'sees every roll, the run sheet of everybody, and who did what',
  ],
  editor: [
    'writes drafts, and sends to the groups they are allowed to write to',
    'clears what others wrote for those groups, never what they wrote in themselves',
    'sees the run sheet, people and groups, and the answers to what they sent',
  ],
  moderator: [
    'decides on posts and replies that wait or were reported, on the boards they moderate',
    'pins, archives and settles there, and appoints others beside them where they own the board',
  ],
  member: [
    'reads what is sent to them and the boards of their groups, answers and thanks',
    'posts and replies where a board lets members do that',
    'sees who has answered of a group they look after',
  ],
};

/** Who has which rights beyond those of everybody. */
export interface RightsPage {
  coordinators: { id: number; name: string }[];
  editors: { id: number; name: string; reach: { id: number; name: string }[] }[];
  boards: { id: number; name: string; moderators: string[] }[];
}
