// Everything a user gives stays in the browser: nothing is rendered on the server.
export const ssr = false;
