//go:build js && wasm

// Offline is the program inside a browser that has no connection: WebAssembly that a
// service worker calls. Every function takes JSON and gives JSON.
package main

import (
	"encoding/json"
	"net/url"
	"syscall/js"
	"time"
	_ "time/tzdata" // a job has its own time zone, and a browser has no files

	"velvetroad/web/offline"
	"velvetroad/web/reply"
)

func main() {
	links := js.Global().Get("VELVET").Get("assets")
	program, err := offline.New(func(name string) string { return links.Get(name).String() }, time.Now)
	if err != nil {
		panic(err)
	}
	type call struct {
		Taken offline.Taken   `json:"taken"`
		All   []offline.Taken `json:"all"`
		Light string          `json:"light"`
		Path  string          `json:"path"`
		Query string          `json:"query"`
		Body  reply.Request   `json:"body"`
	}
	expose := func(name string, do func(call) offline.Result) {
		js.Global().Set(name, js.FuncOf(func(_ js.Value, args []js.Value) any {
			var c call
			if err := json.Unmarshal([]byte(args[0].String()), &c); err != nil {
				return result(offline.Result{Status: 400, Body: err.Error()})
			}
			return result(do(c))
		}))
	}
	expose("velvetPage", func(c call) offline.Result {
		query, _ := url.ParseQuery(c.Query) // what is none asks for nothing
		return program.Page(c.Taken, c.Path, query)
	})
	expose("velvetAnswer", func(c call) offline.Result { return program.Answer(c.Taken, c.Path, c.Body) })
	expose("velvetBoard", func(c call) offline.Result { return program.Board(c.All, c.Light) })
	expose("velvetDay", func(c call) offline.Result {
		query, _ := url.ParseQuery(c.Query)
		return program.Day(c.All, query, c.Light, time.Now())
	})
	expose("velvetPocket", func(c call) offline.Result {
		query, _ := url.ParseQuery(c.Query)
		return program.Pocket(query, c.Light)
	})
	expose("velvetNothing", func(c call) offline.Result { return program.Nothing(c.Light) })
	js.Global().Call("velvetReady")
	select {}
}

func result(r offline.Result) string {
	text, _ := json.Marshal(r) // strings and a number
	return string(text)
}
