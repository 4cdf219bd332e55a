// Where things stand in the address bar. The bench comes with the page, every other screen when it is opened.
import { createRouter } from 'sv-router';
import Bench from '../screens/Bench.svelte';

const later = {
  book: () => import('../screens/Book.svelte'),
  kit: () => import('../screens/Kit.svelte'),
  circuits: () => import('../screens/Circuits.svelte'),
  devices: () => import('../screens/Devices.svelte'),
  sheet: () => import('../screens/Sheet.svelte'),
  compare: () => import('../screens/Compare.svelte'),
  wall: () => import('../screens/Wall.svelte'),
};

export const { p, navigate, isActive, route } = createRouter({
  '/': Bench,
  '/book': later.book,
  '/kit': later.kit,
  '/circuits': later.circuits,
  '/circuits/:id': later.circuits,
  '/devices': later.devices,
  '/jobs/:id': later.sheet,
  '/jobs/:id/:stage': later.sheet,
  '/compare/:first/:second': later.compare,
  '/wall': later.wall,
  '*': Bench,
});

// fetchAhead brings the other screens one after the other, so that a device that loses its network has them all.
export async function fetchAhead(): Promise<void> {
  for (const screen of Object.values(later)) await screen();
}
