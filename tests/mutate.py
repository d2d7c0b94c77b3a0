#!/usr/bin/env python3
"""Makes small faults in the core or in io, one at a time, and lists those that no test notices.

A test that cannot fail looks like one that can. So this changes the code as a tired person might (a < for a
<=, a + for a -, a line left out), builds, and runs the tests that matter; a fault that survives points at a
test that is missing, or at code that does nothing. docs/testing.md says what was found.

  tests/mutate.py [N] [--seed S]   N faults taken at random over src/core (100)
  tests/mutate.py [N] --io         the same over src/io, asked of the tests of ports, takes and sessions
  tests/mutate.py --known          those that once survived, and must not again
  tests/mutate.py --at FILE:LINE   every fault on a line
  tests/mutate.py --again FILE     those that survived according to what an earlier run printed into a file

The tree is copied to build/mutate, so that what you work on is left alone. Core and io are built as shared
libraries there, bound to their own functions, so that a fault costs compiling what of them includes it, and
neither compiling nor linking the tests: what they have inlined stays as it was.
"""
import argparse, os, random, re, shutil, subprocess, sys, time

ROOT = os.path.dirname(os.path.dirname(os.path.abspath(__file__)))
TREE = os.path.join(ROOT, 'build/mutate/tree')
BUILD = os.path.join(ROOT, 'build/mutate/build')

# What is replaced by what, in code without its strings and comments.
PATTERNS = [
    (r'(?<![<>=!\-])<(?![<=])(?= )', '<='), (r'<=(?!>)', '<'), (r'(?<![<>=\-])>(?![>=])(?= )', '>='),
    (r'(?<![<>])>=', '>'), (r'==', '!='), (r'!=', '=='), (r'&&', '||'), (r'\|\|', '&&'),
    (r'(?<=[\w)\]] )\+(?= [\w(])', '-'), (r'(?<=[\w)\]] )-(?= [\w(])', '+'),
    (r'(?<=[\w)\]] )\*(?= [\w(])', '/'), (r'(?<=[\w)\]] )/(?= [\w(])', '*'), (r'(?<=[\w)\]] )%(?= [\w(])', '+'),
    (r'\+\+(?=\w)', '--'), (r'(?<=[( ])!(?=[\w(])', ''), (r'\btrue\b', 'false'), (r'\bfalse\b', 'true'),
    (r'\bstd::min\b', 'std::max'), (r'\bstd::max\b', 'std::min'), (r'\bany_of\b', 'all_of'),
    (r'\bnone_of\b', 'any_of'), (r'(?<![\w.\'"])0\.5(?!\d)', '0.49'), (r'(?<![\w.\'"{<])1(?![\w.\'"])', '2'),
    (r'(?<![\w.\'"{<])0(?![\w.\'"])', '1'), (r'(?<![\w.\'"])(?:127|128)(?![\w.\'"])', '126'),
    (r'^\s*(?!return|if|else|for|while|const|auto|case|break|using|static|std::\w+<|double|int|bool|char|unsigned)'
     r'[\w.>\-\[\]()]+(?:\(.*\)| [+\-*|&]?= .*);$', ''),
    (r'^(\s*)continue;$', r'\1;'),
]
LEAVE = re.compile(r'#include|static_assert|reserve\(|NOLINT|^\s*//|template<|operator|= default|= delete|using |'
                   r'namespace|^\s*[\w:]+ \w+;')

# What a member starts as, where every maker says what it is, changes nothing.
START = re.compile(r'^\s+[\w:<>, *]+ \w+ = [^();]*;$')

# Faults that once survived every test.
KNOWN = [
    ('src/core/steps/combine.cpp', 'return p - q;', 'return q - p;'),
    ('src/core/steps/latch.cpp', 'before < 0.5', 'before <= 0.5'),
    ('src/core/midi/pairs.h', 'aloneAtMost = 3', 'aloneAtMost = 4'),
    ('src/core/engine/playing/sending.cpp', 'if (branch.body->bank) {', 'if (false) {'),
    ('src/core/engine/playing/sending.cpp', 'static_cast<std::uint8_t>(cause >> 8)', 'std::uint8_t{0}'),
    ('src/core/smf/read.cpp', 'if (length < 6 ||', 'if (length != 6 ||'),
    ('src/core/steps/window.cpp', '1,\n     1,\n     false', '1,\n     0.9,\n     false'),
    ('src/core/files/files.cpp', 'if (!temporary_.empty()) ::unlink(temporary_.c_str());', ''),
    ('src/core/midi/controls.h', 'return control >= 0 && control < 2 * pairCount;', 'return control >= 0 && control <= 2 * pairCount;'),
    ('src/core/engine/playing/engine.cpp', 'number < midi::pairCount, value', 'number <= midi::pairCount, value'),
    ('src/core/smf/write.cpp', 'delta(track, std::max(tracks_[track].end, tracks_[track].last));',
     'delta(track, tracks_[track].last);'),
]

# Cheap and telling ones first.
TESTS = ['core-golden', 'core-engine', 'core-steps', 'core-sources', 'core-numbers', 'core-model', 'core-smf',
         'core-stream_reader', 'core-checks', 'core-compiling', 'core-document',
         'core-allocations', 'cli-command_line', 'core-equality', 'core-exhaustive', 'core-schema', 'fuzz-smf',
         'fuzz-ensemble', 'io-player']
IO_TESTS = ['io-player', 'io-pacer', 'io-loops', 'io-wiring', 'io-surfaces', 'io-keeping', 'io-recording', 'io-cable',
            'io-feedback', 'io-clock', 'io-osc', 'core-takes', 'core-journal', 'cli-takes', 'io-practice_rack',
            'io-session', 'io-jack', 'io-soak']
LATE = ['app-language', 'app-chains_page', 'app-files', 'app-playing']


def code_of(line):
    """The line with strings and comments blanked, so that columns stay."""
    line = re.sub(r'"(?:[^"\\]|\\.)*"|\'(?:[^\'\\]|\\.)\'', lambda m: '"' * len(m.group()), line)
    return re.sub(r'//.*', lambda m: ' ' * len(m.group()), line)


def faults_in(path):
    with open(os.path.join(ROOT, path), encoding='utf-8') as file:
        lines = file.read().split('\n')
    found = []
    for number, line in enumerate(lines):
        if LEAVE.search(line):
            continue
        code = code_of(line).rstrip()
        if path.endswith('.h') and START.match(code):
            continue
        for pattern, replacement in PATTERNS:
            for match in re.finditer(pattern, code):
                new = line[:match.start()] + match.expand(replacement) + line[match.end():]
                found.append((path, number + 1, line, new))
    return found


def survivors_in(report):
    """The faults that a report says survived, where their line still is; moved lines are found again."""
    found = []
    with open(report, encoding='utf-8') as file:
        lines = file.read().split('\n')
    for i, line in enumerate(lines):
        match = re.match(r'SURVIVED  (\S+):(\d+) ', line)
        if not match or not os.path.exists(os.path.join(ROOT, match.group(1))):
            continue
        new = lines[i + 2].strip()
        there = [f for f in faults_in(match.group(1))
                 if f[2].strip() == lines[i + 1].strip() and f[3].strip() == ('' if new == '(left out)' else new)]
        found += sorted(there, key=lambda f: abs(f[1] - int(match.group(2))))[:1]
    return found


def run(command, seconds, **more):
    try:
        return subprocess.run(command, timeout=seconds, stdout=subprocess.PIPE, stderr=subprocess.STDOUT, **more)
    except subprocess.TimeoutExpired:
        return None


def prepare(tests, library):
    os.makedirs(os.path.dirname(TREE), exist_ok=True)
    subprocess.run(['rm', '-rf', TREE], check=True)
    files = subprocess.run(['git', '-C', ROOT, 'ls-files'], check=True, capture_output=True, text=True).stdout
    for name in files.split('\n'):
        if name and os.path.exists(os.path.join(ROOT, name)):
            os.makedirs(os.path.dirname(os.path.join(TREE, name)), exist_ok=True)
            shutil.copy(os.path.join(ROOT, name), os.path.join(TREE, name))  # New: times decide what is built.
    subprocess.run(['cmake', '-S', TREE, '-B', BUILD, '-G', 'Ninja', '-DCMAKE_BUILD_TYPE=', '-DCMAKE_CXX_FLAGS=-O1',
                    '-DCMAKE_CXX_COMPILER_LAUNCHER=ccache', '-DMELLOW_SHARED_CORE=ON'], check=True, stdout=subprocess.DEVNULL)
    everything = ['mellow-lever-cli']
    everything += [t.replace('fuzz-', 'short-fuzz-') if t.startswith('fuzz-') else 'test-' + t for t in tests]
    build = ['cmake', '--build', BUILD, '--target']
    subprocess.run(build + everything, check=True, stdout=subprocess.DEVNULL)
    return build + library


def tests_notice(tests):
    """The first test that fails, or an empty text. Twelve are asked before the others."""
    environment = dict(os.environ, QT_QPA_PLATFORM='offscreen', MELLOW_EVENTS='300000')
    for group in [tests[:12], tests[12:]]:
        if not group:
            continue
        pattern = '^(' + '|'.join(re.escape(t) for t in group) + ')$'
        # A fault that never ends, or eats the memory, is noticed too.
        limited = ['bash', '-c', 'ulimit -v 6000000; exec "$@"', 'limited', 'ctest', '--test-dir', BUILD, '-R',
                   pattern, '-j2', '--timeout', '120', '--stop-on-failure']
        ended = run(limited, 600, env=environment)
        if ended is None:
            return 'time'
        if ended.returncode != 0:
            failed = re.findall(r'Test +#\d+: (\S+) \.*\**(?:Failed|Timeout|Exception|Subprocess|SEGFAULT)',
                                ended.stdout.decode(errors='replace'))
            return failed[0] if failed else 'some test'
    return ''


def survives(fault, build, tests):
    """None where it does not compile; else the test that noticed it, or an empty text."""
    path, number, old, new = fault
    full = os.path.join(TREE, path)
    with open(full, encoding='utf-8') as file:
        text = file.read()
    lines = text.split('\n')
    if number > 0:
        lines[number - 1] = new
    with open(full, 'w', encoding='utf-8') as file:
        file.write('\n'.join(lines) if number > 0 else text.replace(old, new, 1))
    try:
        built = run(build, 900)
        if built is None or built.returncode != 0:
            return None
        return tests_notice(tests)
    finally:
        with open(full, 'w', encoding='utf-8') as file:
            file.write(text)


def main():
    parser = argparse.ArgumentParser(description=__doc__.split('\n')[0])
    parser.add_argument('count', nargs='?', type=int, default=100)
    parser.add_argument('--seed', type=int, default=1)
    parser.add_argument('--known', action='store_true')
    parser.add_argument('--at')
    parser.add_argument('--again')
    parser.add_argument('--window', action='store_true', help='ask the tests of the window too, which takes longer')
    parser.add_argument('--io', action='store_true', help='make the faults in src/io')
    options = parser.parse_args()
    place = 'src/io' if options.io else 'src/core'
    sources = sorted(f for f in subprocess.run(['git', '-C', ROOT, 'ls-files', place], check=True,
                                            capture_output=True, text=True).stdout.split()
                  if f.endswith(('.cpp', '.h')))
    if options.known:
        faults = []
        for path, old, new in KNOWN:
            with open(os.path.join(ROOT, path), encoding='utf-8') as file:
                if old not in file.read():
                    sys.exit(f'{path} no longer has: {old}')
            faults.append((path, 0, old, new))
    elif options.again:
        faults = survivors_in(options.again)
    elif options.at:
        path, number = options.at.rsplit(':', 1)
        faults = [f for f in faults_in(path) if f[1] == int(number)]
    else:
        faults = [fault for path in sources for fault in faults_in(path)]
        random.Random(options.seed).shuffle(faults)
    tests = (IO_TESTS if options.io else TESTS) + (LATE if options.window else [])
    build = prepare(tests, ['mellow-io'] if options.io else ['mellow-core'])
    noticed = tests_notice(tests)
    if noticed:
        sys.exit(f'without any fault, {noticed} fails already')
    killed = survived = 0
    for fault in faults:
        if not (options.known or options.at or options.again) and killed + survived == options.count:
            break
        start = time.time()
        noticed = survives(fault, build, tests)
        if noticed is None:
            continue
        path, number, old, new = fault
        if noticed:
            killed += 1
        else:
            survived += 1
        print(f'{"noticed by " + noticed if noticed else "SURVIVED"}  {path}:{number}  ({time.time() - start:.0f} s)\n'
              f'    {old.strip()}\n    {new.strip() or "(left out)"}', flush=True)
    print(f'{killed} noticed, {survived} survived')
    return 1 if survived else 0


if __name__ == '__main__':
    sys.exit(main())
