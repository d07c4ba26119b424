package main

import (
	"bytes"
	"context"
	"fmt"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"syscall"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// place is a folder that PostgreSQL's user can reach.
func place(t *testing.T) string {
	dir, err := os.MkdirTemp("/tmp", "velvet-start.")
	require.NoError(t, err)
	require.NoError(t, os.Chmod(dir, 0o755))
	t.Cleanup(func() { os.RemoveAll(dir) })
	return dir
}

func script(t *testing.T, name string, args ...string) (out string, err error) {
	cmd := exec.CommandContext(t.Context(), name, args...)
	cmd.Dir = "../.."
	text, err := cmd.CombinedOutput()
	return string(text), err
}

// A cluster that was never finished is set aside, a killed postmaster is started again on
// the same port with what it had, and what is stopped is stopped.
func TestTheDatabaseComesUpWhateverHappened(t *testing.T) {
	dir := filepath.Join(place(t), "postgres")
	require.NoError(t, os.MkdirAll(dir, 0o755))
	require.NoError(t, os.WriteFile(filepath.Join(dir, "PG_VERSION"), []byte("15"), 0o644))
	out, err := script(t, "bin/postgres", "start", dir)
	t.Cleanup(func() {
		stop := exec.CommandContext(context.WithoutCancel(t.Context()), "bin/postgres", "stop", dir)
		stop.Dir = "../.."
		_ = stop.Run() // it may have been stopped already
	})
	require.NoError(t, err, out)
	assert.Contains(t, out, "never finished")
	address := regexp.MustCompile(`postgres://\S+`)
	first := address.FindString(out)
	require.NotEmpty(t, first)
	t.Setenv("DATABASE_URL", first)
	_, errs, code := velvet(t, "", "seed")
	require.Equal(t, 0, code, errs)

	pid, err := os.ReadFile(filepath.Join(dir, "postmaster.pid"))
	require.NoError(t, err)
	number, _, _ := strings.Cut(string(pid), "\n")
	require.NoError(t, exec.Command("kill", "-9", number).Run())
	out, err = script(t, "bin/postgres", "start", dir)
	require.NoError(t, err, out)
	assert.Equal(t, first, address.FindString(out), "the same address as before")
	out, errs, code = velvet(t, "", "person", "list")
	assert.Equal(t, 0, code, errs)
	assert.Contains(t, out, "Lantern Ridge Solar", "what was in it is there")

	// A postmaster that lives and does not answer, as while it recovers from a crash, is waited
	// for: it keeps its port, and what is noted of it is put right.
	pid, err = os.ReadFile(filepath.Join(dir, "postmaster.pid"))
	require.NoError(t, err)
	number, _, _ = strings.Cut(string(pid), "\n")
	require.NoError(t, exec.Command("kill", "-STOP", number).Run())
	go func() {
		time.Sleep(3 * time.Second)
		_ = exec.Command("kill", "-CONT", number).Run() // the start below fails without it
	}()
	out, err = script(t, "bin/postgres", "start", dir)
	require.NoError(t, err, out)
	assert.Contains(t, out, "it is waited for")
	assert.Equal(t, first, address.FindString(out))
	require.NoError(t, os.WriteFile(dir+".port", []byte("1\n"), 0o644))
	out, err = script(t, "bin/postgres", "start", dir)
	require.NoError(t, err, out)
	assert.Equal(t, first, address.FindString(out))

	_, err = script(t, "bin/postgres", "stop", dir)
	require.NoError(t, err)
	_, err = script(t, "bin/postgres", "running", dir)
	assert.Error(t, err)
}

// A second start on the same data refuses and leaves the first one alone; a start that
// was killed leaves nothing behind that stops the next.
func TestOneStartAtATime(t *testing.T) {
	t.Setenv("VELVET_DATA", place(t))
	t.Setenv("DATABASE_URL", "")
	t.Setenv("PORT", "0")
	start := func() (*exec.Cmd, string) {
		cmd := exec.Command("bin/start")
		cmd.Dir = "../.."
		var out bytes.Buffer
		file, err := os.Create(filepath.Join(t.TempDir(), "out"))
		require.NoError(t, err)
		cmd.Stdout, cmd.Stderr = file, &out
		require.NoError(t, cmd.Start())
		address := regexp.MustCompile(`http://[0-9.:]+`)
		for range 600 {
			text, err := os.ReadFile(file.Name())
			require.NoError(t, err)
			if base := address.FindString(string(text)); base != "" {
				return cmd, base
			}
			time.Sleep(100 * time.Millisecond)
		}
		require.Fail(t, "it did not start: "+out.String())
		return nil, ""
	}
	answers := func(base string) bool {
		r, err := http.Get(base + "/healthz")
		if err != nil {
			return false
		}
		return r.Body.Close() == nil && r.StatusCode == 200
	}
	// pids are the processes below one, by their names.
	pids := func(of int, name string) []string {
		out, _ := exec.Command("pgrep", "-P", fmt.Sprint(of), name).Output() // none is an error there
		return strings.Fields(string(out))
	}
	first, base := start()
	out, err := script(t, "bin/start")
	require.Error(t, err, "it does not exit as if all were well")
	assert.Contains(t, out, "runs already on the data")
	assert.True(t, answers(base), "the first goes on")

	// A server that ends otherwise than asked is started again, where it was.
	server := pids(first.Process.Pid, "velvet")
	require.Len(t, server, 1)
	require.NoError(t, exec.Command("kill", "-KILL", server[0]).Run())
	require.Eventually(t, func() bool { return answers(base) && !slices.Equal(server, pids(first.Process.Pid, "velvet")) }, 15*time.Second, 100*time.Millisecond)

	// One dead backend makes PostgreSQL recover; the same database answers after it.
	port := func() string {
		text, err := os.ReadFile(filepath.Join(os.Getenv("VELVET_DATA"), "postgres.port"))
		require.NoError(t, err)
		return string(text)
	}
	was := port()
	pid, err := os.ReadFile(filepath.Join(os.Getenv("VELVET_DATA"), "postgres", "postmaster.pid"))
	require.NoError(t, err)
	line, _, _ := strings.Cut(string(pid), "\n")
	postmaster, err := strconv.Atoi(line)
	require.NoError(t, err)
	backends := pids(postmaster, "postgres")
	require.NotEmpty(t, backends)
	require.NoError(t, exec.Command("kill", "-KILL", backends[len(backends)-1]).Run())
	require.Eventually(t, func() bool { return answers(base) }, 15*time.Second, 100*time.Millisecond)
	assert.Equal(t, was, port())

	require.NoError(t, first.Process.Kill())
	_ = first.Wait() // it was killed
	require.Eventually(t, func() bool { return !answers(base) }, 15*time.Second, 100*time.Millisecond, "the server ends with its start")
	second, base := start()
	assert.True(t, answers(base))
	require.NoError(t, second.Process.Signal(syscall.SIGTERM))
	require.NoError(t, second.Wait())
	assert.False(t, answers(base))
	_, err = script(t, "bin/postgres", "running", filepath.Join(os.Getenv("VELVET_DATA"), "postgres"))
	assert.Error(t, err, "it stops the database that it started")
}
