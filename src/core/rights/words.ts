import type { Role } from '../audience/expression.ts';

/**
 * What each role may do, as sentences that go on after its name; `moderator` is a member who looks after a board, `guest`
 * somebody from outside.
 */
export const ROLE_RIGHTS: Record<Role | 'moderator' | 'guest', readonly string[]> = {
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
  guest: [
    'is from outside, until a day that is noted on their page, and out by themselves after it',
    'reads, posts and answers as a member, on the boards and in the groups chosen for them, and gets what goes to them by name',
    'is not among everyone, at a station or in what else is chosen by what people are, and sees no shelf',
    'is marked as a guest wherever others see their name, and has no further role',
  ],
};

/** Who has which rights beyond those of everybody. */
export interface RightsPage {
  coordinators: { id: number; name: string }[];
  editors: { id: number; name: string; reach: { id: number; name: string }[] }[];
  boards: { id: number; name: string; moderators: string[] }[];
}
