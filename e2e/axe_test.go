package e2e

import (
	"encoding/json"
	"os"
	"strings"
	"sync"

	"github.com/stretchr/testify/require"
)

// kindsThere names what kinds of things the page shows: what an element is, what it says of itself, and how it and
// what it stands in are styled, which is what a rule can find fault with.
const kindsThere = `(() => {
	const kinds = new Set()
	const styled = (e) => (e && typeof e.className === 'string' ? e.className : '')
	for (const e of document.querySelectorAll('body *')) {
		if (e.closest('svg') && e.tagName !== 'svg') continue
		if (!e.checkVisibility({ opacityProperty: true, visibilityProperty: true })) continue
		const said = [...e.attributes].filter((a) => /^(role|type|tabindex|disabled|open|aria-(?!label|describedby|controls|owns|labelledby|value|pos|set|activedescendant))/.test(a.name)).map((a) => a.name + '=' + a.value)
		kinds.add([e.tagName, ...said, e.hasAttribute('aria-label') ? 'named' : '', styled(e), '<', styled(e.parentElement), '<', styled(e.parentElement?.parentElement)].join(' '))
	}
	return [...kinds]
})()`

// audited are the kinds of things that axe has looked at, in whatever test.
var audited = struct {
	sync.Mutex
	kinds map[string]bool
	axe   string
}{kinds: map[string]bool{}}

// accessible has axe-core look at every state that shows something of a kind it has not seen yet: it finds nothing, of
// whatever weight (npm axe-core 4, MPL-2.0; the rules of WCAG 2.2 A and AA, and its best practices). It is called
// after every action of every test.
func (s *stand) accessible() {
	s.Helper()
	audited.Lock()
	defer audited.Unlock()
	anew := false
	for _, kind := range eval[[]string](s, kindsThere) {
		anew = anew || !audited.kinds[kind]
		audited.kinds[kind] = true
	}
	if !anew {
		return
	}
	if audited.axe == "" {
		script, err := os.ReadFile("../web/node_modules/axe-core/axe.min.js")
		require.NoError(s, err)
		audited.axe = string(script)
	}
	if !eval[bool](s, `'axe' in window`) {
		eval[bool](s, audited.axe+"; true")
	}
	text := eval[string](s, `(async () => {
		// What is still coming or going is no state: its colours are not yet, or no longer, there to be read.
		await Promise.all(document.getAnimations().filter((a) => a.effect?.getComputedTiming().iterations !== Infinity).map((a) => a.finished.catch(() => 0)))
		// A tip is no region of the page: what it belongs to says where it is.
		axe.configure({ checks: [{ id: 'region', options: { regionMatcher: 'dialog, [role=dialog], [role=alertdialog], svg, [data-radix-popper-content-wrapper]:has([role=tooltip])' } }] })
		// While a menu or a list is open the rest is hidden from whoever hears the page, and cannot be reached.
		const open = document.querySelector('[role=menu], [role=listbox]:not(#found)')
		const found = await axe.run(open ?? document, { runOnly: ['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa', 'best-practice'], resultTypes: ['violations'] })
		return JSON.stringify(found.violations.map(v => ({ rule: v.id, help: v.help, nodes: v.nodes.slice(0, 4).map(n => n.html.slice(0, 200) + ' ' + n.failureSummary) })))
	})()`)
	var found []struct {
		Rule, Help string
		Nodes      []string
	}
	require.NoError(s, json.Unmarshal([]byte(text), &found))
	for _, f := range found {
		s.Errorf("%s (%s)\n  %s", f.Help, f.Rule, strings.Join(f.Nodes, "\n  "))
	}
}
