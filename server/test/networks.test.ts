import { describe, expect, it } from 'vitest';
import { isOwn, isWithin } from '../src/platform/networks.ts';

describe('an address', () => {
  it('is of a network of one’s own, however it is written, or of the world', () => {
    const own = [
      '127.0.0.1',
      '127.255.0.9',
      '10.1.2.3',
      '172.31.255.255',
      '192.168.0.1',
      '169.254.169.254',
      '100.64.0.1',
      '0.0.0.0',
      '224.0.0.1',
      '255.255.255.255',
      '::1',
      '::',
      'fe80::1',
      'fe80::1%eth0',
      'fd12::1',
      'ff02::1',
      '64:ff9b::7f00:1',
      '::ffff:127.0.0.1',
      '::ffff:7f00:1',
      '::FFFF:0A00:0001',
    ];
    expect(own.filter((address) => !isOwn(address))).toEqual([]);
    const world = ['8.8.8.8', '172.32.0.1', '100.128.0.1', '223.255.255.255', '2001:4860::8888', '::ffff:8.8.8.8'];
    expect(world.filter(isOwn)).toEqual([]);
  });

  it('lies within those networks that are listed, and in no other', () => {
    const listed = ['10.1.0.0/16', '192.168.7.7', 'fd00::/8'];
    expect(['10.1.255.1', '192.168.7.7', 'fd00::5', '::ffff:10.1.0.1'].map((one) => isWithin(listed, one))).toEqual([
      true,
      true,
      true,
      true,
    ]);
    expect(['10.2.0.1', '192.168.7.8', 'fe80::1', '8.8.8.8'].filter((one) => isWithin(listed, one))).toEqual([]);
    expect(isWithin([], '127.0.0.1')).toBe(false);
  });
});
