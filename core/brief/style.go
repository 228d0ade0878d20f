package brief

import (
	"cmp"

	"orario/core/brief/prose"
)

// StyleOf is how a text for a slot is to be set, as far as it is asked for; what is asked of everything counts where
// nothing is asked of the slot.
func StyleOf(asks []Ask, slot string) (style prose.Style) {
	for _, thing := range []string{slot, ""} {
		for _, a := range asks {
			if v, is := a.Item.Value.(prose.Style); is && a.Thing == thing {
				style = prose.Style{
					Spacing: cmp.Or(style.Spacing, v.Spacing), Font: cmp.Or(style.Font, v.Font),
					Size: cmp.Or(style.Size, v.Size), Citations: cmp.Or(style.Citations, v.Citations),
				}
			}
		}
	}
	return style
}
