// Package paper makes PDFs of pages, by WeasyPrint, with the fonts of every script in them.
package paper

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"os/exec"
	"strings"
	"time"
)

// ErrMissing is of a machine that cannot make papers.
var ErrMissing = errors.New("the papers are made by WeasyPrint, which is not on this machine: install Debian's packages weasyprint, fonts-noto-core and fonts-noto-cjk")

// longest is how long a set may take.
const longest = 2 * time.Minute

// PDF makes a PDF of a page that has everything in itself: nothing is fetched, from this machine
// or from any other.
func PDF(ctx context.Context, page io.Reader) ([]byte, error) {
	at, err := exec.LookPath("weasyprint")
	if err != nil {
		return nil, ErrMissing
	}
	ctx, cancel := context.WithTimeout(ctx, longest)
	defer cancel()
	run := exec.CommandContext(ctx, at, "--quiet", "--encoding", "utf-8", "--base-url", "about:blank", "-", "-")
	var out, said bytes.Buffer
	run.Stdin, run.Stdout, run.Stderr = page, &out, &said
	if err := run.Run(); err != nil {
		if ctx.Err() != nil {
			return nil, fmt.Errorf("the papers were not ready in time: %w", ctx.Err())
		}
		return nil, fmt.Errorf("the papers were not made: %w: %s", err, strings.TrimSpace(said.String()))
	}
	if !bytes.HasPrefix(out.Bytes(), []byte("%PDF")) {
		return nil, errors.New("the papers were not made: " + strings.TrimSpace(said.String()))
	}
	return out.Bytes(), nil
}
