package main

import "testing"

// What differs in every answer does not count; a figure, a word or an element does.
func TestAlike(t *testing.T) {
	const page = `<form><input name="command" value="0b2e1c3d-0000-4000-8000-00000000a001">
<td>1450 W</td> <td>26 Nov 2026 00:51:49</td><a data-is="x7" href="/static/0123456789abcdef/a.css">3 min ago</a>`
	for other, same := range map[string]bool{
		`<form><input name="command" value="ffffffff-1111-4000-8000-00000000a001"><td>1450 W</td>   <td>2 Dec 2027 10:00</td>
<a data-is="q" href="/static/ffffffffffffffff/a.css">just now</a>`: true,
		`<form><input name="command" value="0b2e1c3d-0000-4000-8000-00000000a001">
<td>1451 W</td> <td>26 Nov 2026 00:51:49</td>
<a data-is="x7" href="/static/0123456789abcdef/a.css">3 min ago</a>`: false,
		page + "<p>": false,
	} {
		if got := alike(page) == alike(other); got != same {
			t.Errorf("alike is %v of\n%s", got, other)
		}
	}
}

func TestLinks(t *testing.T) {
	got := links(`<a href="/jobs/a?x=1&amp;y=2">a</a><a href="?sum=b">b</a>
		<a href="https://elsewhere">c</a><link href='/d'>`)
	if len(got) != 3 || got[0] != "/jobs/a?x=1&y=2" || got[1] != "?sum=b" || got[2] != "/d" {
		t.Errorf("%q", got)
	}
}
