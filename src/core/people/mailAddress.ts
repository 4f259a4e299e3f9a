/**
 * The one form of a mail address for finding and counting: compatibility forms as ordinary letters (NFKC), without
 * characters that show nothing, in small letters. Two addresses that look alike to a reader are then the same.
 */
export const normalMail = (mail: string): string =>
  mail
    .normalize('NFKC')
    .replace(/[\p{Cf}\p{Cc}\s]/gu, '')
    .toLowerCase();
