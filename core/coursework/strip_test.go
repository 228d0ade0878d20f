package coursework

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"orario/core/brief"
	"orario/core/finding"
)

var lab = brief.Sheet{
	Slots: []brief.Slot{
		{Name: "report", Required: true, Forms: []string{"pdf"}},
		{Name: "data", Required: true, Forms: []string{"csv"}},
	},
}

func TestTheStripFollowsFromFacts(t *testing.T) {
	_, requirements := brief.Merge(lab, brief.Own{}, "")
	states := func(p progress) (s []Punch) {
		for _, place := range p.strip() {
			s = append(s, place.State)
		}
		return s
	}
	seventeen := 17.0
	facts := progress{requirements: requirements, sheet: lab, points: 20}
	assert.Equal(t, []Punch{Punched, Blank, Blank, Blank, Blank, Blank}, states(facts))
	facts.filled = map[string]int{"report": 1}
	facts.findings = []brief.Finding{{Weight: finding.Must}}
	assert.Equal(t, []Punch{Punched, Begun, Begun, Blank, Blank, Blank}, states(facts))
	facts.filled["data"], facts.findings, facts.sending = 1, nil, true
	assert.Equal(t, []Punch{Punched, Punched, Punched, Begun, Blank, Blank}, states(facts))
	facts.accepted, facts.proofKnown, facts.reportWaiting = true, true, true
	assert.Equal(t, []Punch{Punched, Punched, Punched, Punched, Begun, Begun}, states(facts))
	facts.proofAgrees, facts.mark, facts.mayGoOn = true, &seventeen, true
	assert.Equal(t, []Punch{Punched, Punched, Punched, Punched, Punched, Begun}, states(facts))
	facts.enough = true
	assert.Equal(t, Punched, states(facts)[5])
}
