/** Paths of files, their parts divided by `/`, whatever they lie in. */

/** What a file is called in its folder. */
export const baseOf = (path: string): string => path.slice(path.lastIndexOf('/') + 1);

/** The folder, with the stroke behind it; nothing for what lies in none. */
export const folderIn = (path: string): string => path.slice(0, path.lastIndexOf('/') + 1);

/** The folder by its own path. */
export const folderOf = (path: string): string => folderIn(path).slice(0, -1);

/** Whether a path is the other, or lies in it; everything lies in ''. */
export const isUnder = (path: string, other: string): boolean => other === '' || path === other || path.startsWith(`${other}/`);
