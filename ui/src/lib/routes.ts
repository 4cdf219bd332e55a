// Where things stand in the address bar.
import { createRouter } from 'sv-router';
import Bench from '../screens/Bench.svelte';
import Book from '../screens/Book.svelte';
import Circuits from '../screens/Circuits.svelte';
import Compare from '../screens/Compare.svelte';
import Devices from '../screens/Devices.svelte';
import Kit from '../screens/Kit.svelte';
import Sheet from '../screens/Sheet.svelte';
import Wall from '../screens/Wall.svelte';

export const { p, navigate, isActive, route } = createRouter({
  '/': Bench,
  '/book': Book,
  '/kit': Kit,
  '/circuits': Circuits,
  '/circuits/:id': Circuits,
  '/devices': Devices,
  '/jobs/:id': Sheet,
  '/jobs/:id/:stage': Sheet,
  '/compare/:first/:second': Compare,
  '/wall': Wall,
  '*': Bench,
});
