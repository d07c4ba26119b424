/** Signs a browser's context in as one of the demo's people; 1 is its lead. */
export async function signIn(context, base, person = 1) {
  const answer = await context.request.post(`${base}/sign-in/demo`, { form: { person: String(person) } });
  if (!answer.ok()) throw new Error(`cannot sign in at ${base}: is it this machine, with the demo in it?`);
}
