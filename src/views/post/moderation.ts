export type Asked = 'report' | 'hide' | 'delete' | 'return' | 'decline';

export const ASKS: Record<Asked, { title: string; label: string; button: string; needed: boolean }> = {
  report: {
    title: 'Report this post',
    label: 'What is wrong with it? Its moderators read this',
    button: 'Report it',
    needed: true,
  },
  hide: { title: 'Hide this post', label: 'Why? Its author reads this', button: 'Hide it', needed: true },
  delete: {
    title: 'Delete this post',
    label: 'Why? Its author reads this. It cannot be brought back',
    button: 'Delete it',
    needed: true,
  },
  return: {
    title: 'Give it back',
    label: 'What should be changed? Its author reads this',
    button: 'Give it back',
    needed: true,
  },
  decline: {
    title: 'Decline it',
    label: 'A word to its author, if you wish',
    button: 'Decline it',
    needed: false,
  },
};
