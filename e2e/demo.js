/** Signs a browser's context in as the demo's lead. */
export async function signIn(context, base) {
  const answer = await context.request.post(`${base}/sign-in/demo`, { form: { person: "1" } });
  if (!answer.ok()) throw new Error(`cannot sign in at ${base}: is it this machine, with the demo in it?`);
}
