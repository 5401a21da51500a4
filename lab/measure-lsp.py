#!/usr/bin/env python3
"""measure-lsp.py PROGRAM RECORD [CHANGES] [LINES]: types into a table, one character a change, and waits for the findings of
each; prints how long that took: median, 99 in a hundred, longest."""
import json, subprocess, sys, time
program, record = sys.argv[1:3]
changes, lines = [int(x) for x in (sys.argv[3:5] + ['10000', '200'][len(sys.argv) - 3:])][:2]
p = subprocess.Popen([program, 'lsp', '--host', record], stdin=subprocess.PIPE, stdout=subprocess.PIPE)
def send(m):
    b = json.dumps(dict(jsonrpc='2.0', **m)).encode(); p.stdin.write(b'Content-Length: %d\r\n\r\n' % len(b) + b); p.stdin.flush()
def receive():
    n = 0
    while (l := p.stdout.readline().strip()):
        if l.lower().startswith(b'content-length'): n = int(l.split(b':')[1])
    return json.loads(p.stdout.read(n))
own = json.load(open(record))['tables'][0]['text']
table = own.split('\n')
table = (table + [f'tmpfs /srv/work/{n} tmpfs size=8M,nofail 0 0' for n in range(lines)])[:lines]
uri = 'file:///etc/fstab'
send(dict(id=1, method='initialize', params=dict(capabilities={}))); receive()
send(dict(method='initialized', params={}))
send(dict(method='textDocument/didOpen', params=dict(textDocument=dict(uri=uri, languageId='fstab', version=1, text='\n'.join(table))))); receive()
took = []
word = 'noatime,nodev,nosuid,size=16M'
for n in range(changes):
    # Option after option is typed into a line, then taken out again.
    at, typed = lines - 1 - (n // 60) % (lines // 2), n % 60
    text = table[:]; text[at] = text[at].replace('nofail', 'nofail,' + word[:min(typed, 60 - typed)])
    t = time.perf_counter()
    send(dict(method='textDocument/didChange', params=dict(textDocument=dict(uri=uri, version=n + 2), contentChanges=[dict(text='\n'.join(text))])))
    receive(); took.append(time.perf_counter() - t)
send(dict(id=2, method='shutdown')); receive(); send(dict(method='exit')); p.wait()
took.sort(); ms = lambda share: f'{took[min(len(took) - 1, int(len(took) * share))] * 1000:.1f} ms'
print(f'{changes} changes of {lines} lines: median {ms(.5)}, 99 in a hundred within {ms(.99)}, longest {ms(1)}')
