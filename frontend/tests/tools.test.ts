import { describe, expect, it } from 'vitest';
import { COMMANDS, type Command, HELD_KEYS } from '../src/controls/commands';
import { BEGINNING } from '../src/controls/editor';
import { TOOLS, toolNamed } from '../src/make/tools/registry';

describe('the tools of the view', () => {
  const commands = Object.values<Command>(COMMANDS).flatMap(({ tool }) => tool ?? []);

  it('are each taken in hand by one command, but the hand, with which all begins', () => {
    const [hand, ...others] = TOOLS.map(({ name }) => name);
    expect(hand).toBe(BEGINNING.tool);
    expect([...commands].sort()).toEqual(others.sort());
  });

  it('say what they wait for', () => {
    for (const { name, Note } of TOOLS.slice(1)) expect(Note, name).toBeTypeOf('function');
  });

  it('and all other commands leave alone the keys that are held while the pointer drags', () => {
    const chords = Object.values<Command>(COMMANDS).map(({ chord }) => chord.toLowerCase());
    expect(chords.filter((c) => Object.values(HELD_KEYS).includes(c))).toEqual([]);
    expect(new Set(chords.filter(Boolean)).size).toBe(chords.filter(Boolean).length);
  });

  it('give the hand back where one is not there any more', () => {
    expect(toolNamed('gone').name).toBe('hand');
  });
});
