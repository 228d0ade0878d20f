package courier

import (
	"reflect"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"

	api "orario/internal/courier/campusapi"
)

// fill gives every field of a value something that is not nothing, as far as our own types go.
func fill(v reflect.Value) {
	switch v.Kind() {
	case reflect.Struct:
		if _, is := v.Interface().(time.Time); is {
			v.Set(reflect.ValueOf(time.Date(2026, 11, 26, 20, 0, 0, 0, time.UTC)))
			return
		}
		for i := range v.NumField() {
			fill(v.Field(i))
		}
	case reflect.Pointer:
		v.Set(reflect.New(v.Type().Elem()))
		fill(v.Elem())
	case reflect.Slice:
		v.Set(reflect.MakeSlice(v.Type(), 2, 2))
		for i := range v.Len() {
			fill(v.Index(i))
		}
	case reflect.String:
		v.SetString("something")
	case reflect.Bool:
		v.SetBool(true)
	case reflect.Int, reflect.Int64, reflect.Int32:
		v.SetInt(7)
	case reflect.Float64:
		v.SetFloat(7.5)
	}
}

// empty names the fields that have nothing in them.
func empty(v reflect.Value, path string) (list []string) {
	if v.IsZero() {
		return []string{path}
	}
	switch v.Kind() {
	case reflect.Struct:
		if _, is := v.Interface().(time.Time); !is {
			for i := range v.NumField() {
				list = append(list, empty(v.Field(i), path+"."+v.Type().Field(i).Name)...)
			}
		}
	case reflect.Pointer:
		return empty(v.Elem(), path)
	case reflect.Slice:
		for i := range v.Len() {
			list = append(list, empty(v.Index(i), path)...)
		}
	}
	return list
}

// Nothing that a site says is lost where it becomes ours, and nothing of ours is left without a value.
func TestWhatComesOverTheWireBecomesOurs(t *testing.T) {
	filled := func(v any) reflect.Value {
		fill(reflect.ValueOf(v).Elem())
		return reflect.ValueOf(v).Elem()
	}
	for name, ours := range map[string]any{
		"site":       describedBy(filled(&api.Site{}).Interface().(api.Site)),
		"assignment": assignmentOf(filled(&api.Assignment{}).Interface().(api.Assignment)),
		"draft":      draftOf(filled(&api.Draft{}).Interface().(api.Draft)),
		"report":     reportOf(filled(&api.Report{}).Interface().(api.Report)),
		"return":     returnOf(filled(&api.Return{}).Interface().(api.Return)),
	} {
		assert.Empty(t, empty(reflect.ValueOf(ours), name))
	}
	fields := func(v any) int { return reflect.TypeOf(v).NumField() }
	assert.Equal(t, fields(api.Site{}), fields(Description{}))
	assert.Equal(t, fields(api.Assignment{}), fields(Assignment{}))
	assert.Equal(t, fields(api.Draft{}), fields(Draft{}))
	assert.Equal(t, fields(api.DraftFile{}), fields(DraftFile{}))
	assert.Equal(t, fields(api.Report{}), fields(Report{}))
	assert.Equal(t, fields(api.Return{}), fields(Return{}))
}
