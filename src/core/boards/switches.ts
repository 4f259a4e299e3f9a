import { list } from '../words.ts';
import type { Switches } from './switchesSchema.ts';

export const PURPOSES = ['to read', 'news', 'talk', 'held', 'everybody'] as const;
export type Purpose = (typeof PURPOSES)[number];

const CALM: Switches = {
  posting: 'moderators',
  replying: 'nobody',
  reacting: 'nobody',
  pinning: 'moderators',
  mentioning: 'moderators',
  automations: true,
  gateways: false,
  warns: false,
  passing: true,
};

/** What a board is for, with how its switches stand to begin with. */
export const PRESETS: Record<Purpose, { words: string; switches: Switches }> = {
  'to read': { words: 'To be read: rules and official news. Only moderators post.', switches: CALM },
  news: {
    words: 'News that may be talked about: moderators post, members reply.',
    switches: { ...CALM, replying: 'members', reacting: 'members' },
  },
  talk: {
    words: 'Everyone in the group posts and replies.',
    switches: { ...CALM, posting: 'members', replying: 'members', reacting: 'members' },
  },
  held: {
    words: 'Everyone may write; a moderator looks at each post before it goes up.',
    switches: {
      ...CALM,
      posting: 'held',
      replying: 'members',
      reacting: 'members',
      automations: false,
      passing: false,
    },
  },
  everybody: {
    words: 'A place for everybody: all may post, and are told first how many they reach.',
    switches: {
      ...CALM,
      posting: 'members',
      replying: 'members',
      reacting: 'members',
      automations: false,
      warns: true,
    },
  },
};

/** Which purpose switches stand for, or nothing where they were adjusted. */
export function purposeOf(switches: Switches): Purpose | undefined {
  return PURPOSES.find((purpose) => {
    const preset: Record<string, unknown> = PRESETS[purpose].switches;
    return Object.entries(switches).every(([name, value]) => preset[name] === value);
  });
}

/** A board's rules as one line of prose for its readers. */
export function rulesWords(switches: Switches, moderators: readonly string[]): string {
  const who = list(moderators, 'and') || 'the coordinators';
  const moderate = moderators.length === 1 ? 'moderates' : 'moderate';
  const posting = {
    moderators: `Only those who moderate it post: ${who}.`,
    held: `Everyone here may write; ${who} ${moderators.length === 1 ? 'looks' : 'look'} at each post before it goes up.`,
    members: `Everyone here posts; ${who} ${moderate} it.`,
  }[switches.posting];
  const replying = {
    nobody: 'Posts take no replies',
    moderators: 'Only moderators reply',
    members: 'Everyone replies',
  }[switches.replying];
  const reacting = {
    nobody: switches.replying === 'nobody' ? 'and no reactions' : ', and there are no reactions',
    members: switches.replying === 'members' ? 'and reacts' : ', and everyone may react',
  }[switches.reacting];
  return `${posting} ${replying} ${reacting}.`.replace(' ,', ',');
}

/** What the switches are called, and what each of their positions says. */
export const SWITCH_WORDS = {
  posting: {
    name: 'Who starts posts',
    choices: {
      moderators: 'moderators',
      held: 'everyone, after a moderator has looked',
      members: 'everyone here',
    },
  },
  replying: {
    name: 'Who replies',
    choices: { nobody: 'nobody', moderators: 'moderators', members: 'everyone here' },
  },
  reacting: { name: 'Who reacts', choices: { nobody: 'nobody', members: 'everyone here' } },
  pinning: { name: 'Who pins', choices: { moderators: 'moderators', members: 'everyone here' } },
  mentioning: {
    name: 'Who calls on everybody here at once',
    choices: { moderators: 'moderators', members: 'everyone here' },
  },
} as const;

export const FLAG_WORDS = {
  automations: 'What recurs by itself may post here',
  gateways: 'What comes in from outside may post here',
  warns: 'Writers are told how many a post reaches before it goes up',
  passing: 'Posts may be passed on to other boards',
} as const;

/** What of a board a coordinator or its owner sets, besides its name and whose place it is. */
export interface BoardSetting extends Switches {
  about: string;
  sectionLimit: number;
  pinLimit: number;
  contactsRead: boolean;
}

/** What each setting of a board says, as what differs between two boards is told. */
export const BOARD_SETTINGS: Readonly<Record<keyof BoardSetting, string>> = {
  about: 'what it is for',
  posting: 'who posts',
  replying: 'who replies',
  reacting: 'who reacts',
  pinning: 'who pins',
  mentioning: 'who calls on everybody',
  automations: 'whether what recurs by itself posts',
  gateways: 'whether what comes in from outside posts',
  warns: 'whether writers are told how many they reach',
  passing: 'whether posts are passed on',
  sectionLimit: 'how many sections a post has',
  pinLimit: 'how many posts are pinned',
  contactsRead: 'whether linked contacts read it',
};
