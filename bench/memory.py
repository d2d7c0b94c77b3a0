#!/usr/bin/env python3
"""Measures what the command line takes at its peak for hostile files: many things in few bytes.

Prints a line for each, "megabytes allowed what it was", where allowed is 12 times the input and 64 MB.
usage: bench/memory.py FOLDER-OF-PROGRAMS FOLDER-TO-WORK-IN
"""
import os, struct, subprocess, sys

SIZE = 9_000_000
# A child of its own for each call, since a process knows only the largest of its children.
PEAK = ('import resource, subprocess, sys; subprocess.run(sys.argv[1:], stdout=subprocess.DEVNULL, '
        'stderr=subprocess.DEVNULL); print(resource.getrusage(resource.RUSAGE_CHILDREN).ru_maxrss)')


def midi_file(form, tracks):
    header = b'MThd' + struct.pack('>IHHH', 6, form, len(tracks), 480)
    return header + b''.join(b'MTrk' + struct.pack('>I', len(track)) + track for track in tracks)


def ensemble(instruments, more=b''):
    return (b'{"format":"mellow-lever/ensemble","version":1,"title":"Much","instruments":[' + b','.join(instruments)
            + b']' + more + b'}')


def instrument(chains):
    return (b'{"id":"one","output":{"port":"out","channel":1},"parameters":[{"id":"p","message":{"kind":"cc",'
            b'"number":11}}],"chains":[' + b','.join(chains) + b']}')


def chain(i, source, steps=b'', branches=b'{"target":"p","low":0,"high":127}'):
    return b'{"id":"c%d","source":{"kind":%s},"steps":[%s],"branches":[%s]}' % (i, source, steps, branches)


def bend(i):
    return b'{"kind":"bend","amount":%.5f}' % (i / 40000)


END = b'\0\xff\x2f\0'
MIDI = {
    'events of one data byte': midi_file(0, [b'\0\xc0\x05' + b'\0\x06\0\x07' * (SIZE // 4) + END]),
    'events of two data bytes': midi_file(0, [b'\0\xb0\x15\x05' + b'\0\x15\x06' * (SIZE // 3) + END]),
    'tempo events': midi_file(0, [b'\1\xff\x51\x03\x06\0\0' * (SIZE // 7) + END]),
    'empty tracks': midi_file(1, [END] * 65535),
}
CC = b'"cc","number":1'
DOCUMENTS = {
    'empty lists': ensemble([], b',"x":[' + b'[],' * (SIZE // 3) + b'[]]'),
    'numbers': ensemble([], b',"x":[' + b'1,' * (SIZE // 2) + b'1]'),
    'names': ensemble([], b',"inHand":[' + b'"",' * (SIZE // 3) + b'""]'),
    'chains that say little': ensemble([instrument([chain(i, b'"bend"', b'', b'') for i in range(32000)])]),
    'chains that all bend': ensemble([instrument([chain(i, CC, bend(i)) for i in range(32000)])]),
    'wide chains that all bend': ensemble([instrument([chain(i, b'"bend"', bend(i)) for i in range(32000)])]),
    'chains that all remember': ensemble(
        [instrument([chain(i, CC, bend(i) + b',{"kind":"smooth"}') for i in range(32000)])]),
    'branches': ensemble([instrument(
        [chain(i, CC, b'', b','.join([b'{"target":"p","low":0,"high":1}'] * 200)) for i in range(1000)])]),
    'hands handed over': ensemble([instrument(
        [b'{"id":"c%d","handover":"meet","source":{"kind":%s},"branches":[{"target":"p","low":0,"high":1}]}'
         % (i, CC) for i in range(32000)])]),
    'instruments': ensemble([b'{"id":"a%d","output":{"port":"o%d","channel":1},"parameters":[]}' % (i, i % 4000)
                             for i in range(60000)]),
}


def main():
    programs, work = sys.argv[1:]
    tool = os.path.join(programs, 'mellow-lever-cli')

    def write(name, data):
        path = os.path.join(work, name)
        with open(path, 'wb') as file:
            file.write(data)
        return path

    def show(what, size, *arguments):
        took = subprocess.run([sys.executable, '-c', PEAK, tool, *arguments], capture_output=True, text=True, check=True)
        print(f'{int(took.stdout) / 1024:.0f} {(12 * size + (64 << 20)) / (1 << 20):.0f} {what}', flush=True)

    plain = write('plain.lever', ensemble([instrument([])]))
    short = write('short.mid', midi_file(0, [b'\0\xb0\x01\x40' + END]))
    out = os.path.join(work, 'out.mid')
    for what, data in MIDI.items():
        show('a file of ' + what, len(data), 'apply', plain, write('hostile.mid', data), '-o', out)
    for what, data in DOCUMENTS.items():
        path = write('hostile.lever', data)
        show('check ' + what, len(data), 'check', path)
        show('play ' + what, len(data), 'apply', path, short, '-o', out)


main()
