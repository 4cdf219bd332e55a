// Where things stand in the address bar. The bench comes with the page, every other screen when it is opened.
import type { Component } from 'svelte';
import { createRouter } from 'sv-router';
import Bench from '../screens/Bench.svelte';

const screens = {
  '/': Bench,
  '/book': () => import('../screens/Book.svelte'),
  '/kit': () => import('../screens/Kit.svelte'),
  '/kit/:piece': () => import('../screens/Kit.svelte'),
  '/circuits': () => import('../screens/Circuits.svelte'),
  '/circuits/:id': () => import('../screens/Circuits.svelte'),
  '/devices': () => import('../screens/Devices.svelte'),
  '/jobs/:id': () => import('../screens/Sheet.svelte'),
  '/jobs/:id/:stage': () => import('../screens/Sheet.svelte'),
  '/machines/:name': () => import('../screens/Machine.svelte'),
  '/compare/:first/:second': () => import('../screens/Compare.svelte'),
  '/handover': () => import('../screens/Handover.svelte'),
  '/wall': () => import('../screens/Wall.svelte'),
  '*': Bench,
};

export const { p, navigate, isActive, route } = createRouter(screens);

// fetchAhead brings the other screens one after the other, so that a device that loses its network has them all. One that is here
// stands for itself: to wait for it once more would lose the key that is pressed right after.
export async function fetchAhead(): Promise<void> {
  const all = screens as Record<string, Component | (() => Promise<{ default: Component }>)>;
  for (const [path, screen] of Object.entries(screens)) {
    if (screen !== Bench) all[path] = (await (screen as () => Promise<{ default: Component }>)()).default;
  }
}
