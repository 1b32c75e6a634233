// Screens that answer while one works. A request takes along what the page holds when it leaves, and an answer never
// overwrites what was done since.

const CONTROLS = "input:not([type=hidden]), select, textarea";
const UNSENT = Infinity; // when a control was last used whose value is sent later, once it is whole

/**
 * Let the requests of a form follow what is done in it.
 *
 * adds(data) puts in what the form alone does not say; later(event) tells of an input that is sent only later.
 * Returns whenQuiet(act), which acts once nothing is under way and nothing waits to leave; mark(), a moment; and
 * usedSince(control, moment).
 */
export function follow(form, { adds = () => {}, later = () => false } = {}) {
  const used = new WeakMap(); // control: when it was last used
  const waiting = [];
  let clock = 0;
  let underWay = 0;
  let toLeave = false;

  function lastUse(element) {
    const controls = [...element.querySelectorAll(CONTROLS), ...(element.matches(CONTROLS) ? [element] : [])];
    return Math.max(0, ...controls.map((each) => used.get(each) ?? 0));
  }

  function goOn() {
    if (underWay || toLeave || !waiting.length) return;
    waiting.shift()();
    goOn();
  }

  document.addEventListener("input", (event) => {
    if (event.target.form === form) used.set(event.target, later(event) ? UNSENT : ++clock);
  }, true);
  document.addEventListener("focusout", ({ target }) => {
    if (used.get(target) === UNSENT) used.set(target, ++clock);
  });
  form.addEventListener("input", () => {
    toLeave = true;
  });

  document.addEventListener("htmx:before:request", ({ detail: { ctx } }) => {
    const { name, value, type } = ctx.sourceElement;
    const data = new FormData(form);
    if (type === "submit" && name) data.append(name, value);
    if (form.dataset.relief) data.set("relief", form.dataset.relief); // this browser draws yarn itself
    adds(data);
    ctx.request.body = new URLSearchParams(data);
    ctx.left = ++clock;
    toLeave = false;
    underWay += 1;
  });

  // What a button makes of the page is asked for anew where the page was changed meanwhile. Of any other answer, the
  // parts with a control used since are left out: what its use sends brings them.
  document.addEventListener("htmx:before:swap", (event) => {
    const { ctx, tasks } = event.detail;
    const { name, id } = ctx.sourceElement;
    const overtaken = [];
    for (const task of tasks) {
      const place = typeof task.target === "string" ? document.querySelector(task.target) : task.target;
      const use = place ? lastUse(place) : 0;
      if (use <= ctx.left) continue;
      if (name === "do" && use !== UNSENT) {
        event.preventDefault();
        setTimeout(() => document.getElementById(id)?.click());
        return;
      }
      overtaken.push(task);
    }
    for (const task of overtaken) tasks.splice(tasks.indexOf(task), 1);
  });

  document.addEventListener("htmx:finally:request", ({ detail: { ctx } }) => {
    if (ctx.left === undefined) return;
    underWay -= 1;
    setTimeout(goOn); // what stands in the queue leaves first
  });

  return {
    whenQuiet(act) {
      waiting.push(act);
      goOn();
    },
    mark: () => clock,
    usedSince: (control, moment) => used.get(control) > moment,
  };
}
