export const folderOf = (path: string): string => (path.includes('/') ? path.slice(0, path.lastIndexOf('/')) : '');
export const baseOf = (path: string): string => path.slice(path.lastIndexOf('/') + 1);
