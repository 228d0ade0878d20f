package main

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os"
	"reflect"
	"strings"

	"github.com/spf13/cobra"
)

// takes refuses fewer or more arguments than a command takes, and says how it is written; most 0: any number.
func takes(least, most int) cobra.PositionalArgs {
	return func(cmd *cobra.Command, args []string) error {
		if len(args) < least || most > 0 && len(args) > most {
			return fmt.Errorf("this takes other arguments; write it as: orario %s", cmd.Use)
		}
		return nil
	}
}

func readFileOrInput(path string) ([]byte, error) {
	if path == "-" {
		return io.ReadAll(os.Stdin)
	}
	text, err := os.ReadFile(path)
	if err != nil {
		return nil, unreadable(path, err)
	}
	return text, nil
}

// decode reads one JSON document into a struct. A key that is unknown, twice or in another case, one
// that is lacking where the field is tagged required, and text after the document, are errors that name it.
func decode(text []byte, into any) error {
	d := json.NewDecoder(bytes.NewReader(text))
	if err := checkKeys(d, reflect.TypeOf(into).Elem()); err != nil {
		return err
	}
	if _, err := d.Token(); !errors.Is(err, io.EOF) {
		return errors.New("there is text after the JSON document")
	}
	return json.Unmarshal(text, into)
}

func checkKeys(d *json.Decoder, t reflect.Type) error {
	token, err := d.Token()
	if err != nil {
		return fmt.Errorf("it is not JSON: %w", err)
	}
	for t != nil && t.Kind() == reflect.Pointer {
		t = t.Elem()
	}
	switch token {
	case json.Delim('['):
		var element reflect.Type
		if t != nil && t.Kind() == reflect.Slice {
			element = t.Elem()
		}
		for d.More() {
			if err := checkKeys(d, element); err != nil {
				return err
			}
		}
	case json.Delim('{'):
		seen := map[string]bool{}
		for d.More() {
			key, err := d.Token()
			if err != nil {
				return fmt.Errorf("it is not JSON: %w", err)
			}
			name := key.(string)
			if seen[name] {
				return fmt.Errorf("the key %q is there twice", name)
			}
			seen[name] = true
			field, ok := fieldType(t, name)
			if !ok {
				return fmt.Errorf("the key %q is not known", name)
			}
			if err := checkKeys(d, field); err != nil {
				return err
			}
		}
		if t != nil && t.Kind() == reflect.Struct {
			for i := range t.NumField() {
				name, _, _ := strings.Cut(t.Field(i).Tag.Get("json"), ",")
				if t.Field(i).Tag.Get("required") != "" && !seen[name] {
					return fmt.Errorf("the key %q is required", name)
				}
			}
		}
	default:
		return nil
	}
	if _, err := d.Token(); err != nil { // the closing bracket
		return fmt.Errorf("it is not JSON: %w", err)
	}
	return nil
}

// fieldType is the type of the field with a JSON name; a nil type takes anything, a map any name.
func fieldType(t reflect.Type, name string) (reflect.Type, bool) {
	switch {
	case t != nil && t.Kind() == reflect.Map:
		return t.Elem(), true
	case t == nil || t.Kind() != reflect.Struct:
		return nil, t == nil
	}
	field, ok := reflect.StructField{}, false
	for _, f := range reflect.VisibleFields(t) {
		if tag, _, _ := strings.Cut(f.Tag.Get("json"), ","); tag == name && (!ok || len(f.Index) < len(field.Index)) {
			field, ok = f, true
		}
	}
	return field.Type, ok
}
