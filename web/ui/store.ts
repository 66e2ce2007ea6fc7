import { defineStore as define, getActivePinia, type Pinia, type SetupStoreDefinition } from 'pinia';
import { getCurrentInstance, h, render, type Component } from 'vue';

/**
 * A store as Pinia has it, made beside whatever asks for it first. Vue lets every watcher hold the component in whose
 * setup it began, with all that this one shows; a store's watchers end with the page, and so would every screen that
 * was the first to need a store.
 */
export function defineStore<Id extends string, Setup>(
  id: Id,
  setup: () => Setup,
): SetupStoreDefinition<Id, Setup> {
  const use = define(id, setup);
  let madeIn: Pinia | undefined;
  const used = () => {
    if (madeIn && madeIn === getActivePinia()) return use();
    const store = aside(use);
    madeIn = getActivePinia();
    return store;
  };
  return Object.assign(used, { $id: id }) as SetupStoreDefinition<Id, Setup>;
}

/** Runs what makes a store in the setup of a component of its own, which shows nothing and stays. */
function aside<Made>(make: () => Made): Made {
  const here = getCurrentInstance();
  if (!here) return make();
  let made: Made | null = null;
  const alone: Component = {
    setup() {
      made = make();
      return () => null;
    },
  };
  const node = h(alone);
  node.appContext = here.appContext;
  render(node, document.createElement('div'));
  // an error in a setup goes to the application's handler; whoever asked has to hear of it, too
  if (made === null) throw new Error('The store could not be made.');
  return made;
}
