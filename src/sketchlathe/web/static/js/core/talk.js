// A question to the server and its answer.
const meta = /** @type {HTMLElement} */ (document.querySelector('meta[name=csrf]'));
export const csrf = meta.content;

// What the server refused, in its words; where the form of the answer has more (which field, which step), that too.
export class Problem extends Error {
  /** @param {{ message?: string }} body @param {number} status */
  constructor(body, status) {
    super(body.message ?? 'The server did not answer.');
    Object.assign(this, body, { status });
  }
}

/** Ask for what is at a path; a body is sent as JSON, a form with its files as it is.
 * @param {string} path @param {any} [body] */
export async function talk(path, body, method = body === undefined ? 'GET' : 'POST') {
  const form = body instanceof FormData;
  let answer;
  try {
    answer = await fetch(path, {
      method,
      headers: {
        Accept: 'application/json',
        'X-CSRFToken': csrf,
        ...(form ? {} : { 'Content-Type': 'application/json' }),
      },
      body: body === undefined || form ? body : JSON.stringify(body),
    });
  } catch {
    throw new Problem(
      { message: 'The server cannot be reached. Nothing that was saved is lost; this was not saved yet.' },
      0,
    );
  }
  const data = await answer.json().catch(() => ({}));
  if (!answer.ok) throw new Problem(data, answer.status);
  return data;
}
