import { createContext } from 'react';

/**
 * What is added to the path of an upload so that whoever may open the draft it stands in can see it: `?draft=12`. Empty where only
 * those who kept it look at it.
 */
export const FilesOf = createContext('');
