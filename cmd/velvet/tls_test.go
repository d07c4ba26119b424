package main

import (
	"bufio"
	"crypto/ecdsa"
	"crypto/elliptic"
	"crypto/rand"
	"crypto/tls"
	"crypto/x509"
	"crypto/x509/pkix"
	"encoding/pem"
	"math/big"
	"net"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"syscall"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"velvetroad/store/storetest"
)

// With certificate files pages come by https alone, with cookies that go nowhere else.
func TestServeByCertificate(t *testing.T) {
	key, err := ecdsa.GenerateKey(elliptic.P256(), rand.Reader)
	require.NoError(t, err)
	about := x509.Certificate{SerialNumber: big.NewInt(1), Subject: pkix.Name{CommonName: "shop.example"}, NotAfter: time.Now().Add(time.Hour), IPAddresses: []net.IP{net.IPv4(127, 0, 0, 1)}}
	der, err := x509.CreateCertificate(rand.Reader, &about, &about, &key.PublicKey, key)
	require.NoError(t, err)
	secret, err := x509.MarshalECPrivateKey(key)
	require.NoError(t, err)
	cert, keys := filepath.Join(t.TempDir(), "cert.pem"), filepath.Join(t.TempDir(), "key.pem")
	require.NoError(t, os.WriteFile(cert, pem.EncodeToMemory(&pem.Block{Type: "CERTIFICATE", Bytes: der}), 0o600))
	require.NoError(t, os.WriteFile(keys, pem.EncodeToMemory(&pem.Block{Type: "EC PRIVATE KEY", Bytes: secret}), 0o600))

	t.Setenv("DATABASE_URL", storetest.Database(t))
	_, errs, code := velvet(t, "", "serve", "--cert", cert)
	assert.Equal(t, 2, code)
	assert.Contains(t, errs, "go together")
	cmd := exec.Command(os.Args[0], "serve", "--cert", cert, "--key", keys)
	cmd.Env = append(os.Environ(), "VELVET_TEST_RUN=1", "PORT=0")
	out, err := cmd.StdoutPipe()
	require.NoError(t, err)
	require.NoError(t, cmd.Start())
	line, err := bufio.NewReader(out).ReadString('\n')
	require.NoError(t, err)
	base := regexp.MustCompile(`https://[0-9.:]+`).FindString(line)
	require.NotEmpty(t, base, line)
	pool := x509.NewCertPool()
	pool.AppendCertsFromPEM(pem.EncodeToMemory(&pem.Block{Type: "CERTIFICATE", Bytes: der}))
	client := http.Client{Transport: &http.Transport{TLSClientConfig: &tls.Config{RootCAs: pool}}}
	r, err := client.Get(base + "/sign-in")
	require.NoError(t, err)
	require.NoError(t, r.Body.Close())
	assert.Equal(t, 200, r.StatusCode)
	assert.NotEmpty(t, r.Header.Get("Strict-Transport-Security"))
	require.NoError(t, cmd.Process.Signal(syscall.SIGTERM))
	require.NoError(t, cmd.Wait())
}
