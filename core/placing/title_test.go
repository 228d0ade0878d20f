package placing

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestACodeIsTakenOffATitle(t *testing.T) {
	for title, want := range map[string]string{
		"HYD 214: Lab 3": "Lab 3", "hyd214 – tides": "Tides", "HYD-214, Lab": "Lab", "HYD 2140 Lab": "HYD 2140 Lab", "Hydra": "Hydra", "HYD 214": "HYD 214", "Lab for HYD 214": "Lab for HYD 214", "": "", "É 214": "É 214",
	} {
		assert.Equal(t, want, Untitled(title, "HYD 214"), title)
	}
}
