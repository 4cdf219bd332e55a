package main

import (
	"bufio"
	"bytes"
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"net/url"
	"os"
	"os/exec"
	"regexp"
	"strconv"
	"strings"
	"time"

	"idlehiss/core/terms"
)

// process is the program, serving a shop.
type process struct {
	cmd *exec.Cmd
	url string
	run string // tells the writes of one run from those of another
}

var address = regexp.MustCompile(`http://\S+`)

func start(program, data string) (*process, error) {
	p := &process{cmd: exec.Command(program, "serve", "--data", data, "--keep", "0", "--addr", "127.0.0.1:0"), run: strconv.FormatInt(time.Now().UnixNano(), 36)}
	p.cmd.Stderr = os.Stderr
	out, err := p.cmd.StdoutPipe()
	if err != nil {
		return nil, err
	}
	if err := p.cmd.Start(); err != nil {
		return nil, err
	}
	said, err := bufio.NewReader(out).ReadString('\n')
	if p.url = address.FindString(said); p.url == "" {
		p.stop()
		return nil, fmt.Errorf("the program did not say where it is: %q, %v", said, err)
	}
	return p, nil
}

func (p *process) stop() {
	_ = p.cmd.Process.Signal(os.Interrupt)
	_ = p.cmd.Wait()
}

func answered(r *http.Response, err error) ([]byte, error) {
	if err != nil {
		return nil, err
	}
	defer r.Body.Close()
	raw, err := io.ReadAll(r.Body)
	if err == nil && r.StatusCode != http.StatusOK {
		err = fmt.Errorf("%s: %s", r.Status, raw)
	}
	return raw, err
}

func (p *process) get(path string) ([]byte, error) { return answered(http.Get(p.url + path)) }

func (p *process) post(path string, v map[string]any) ([]byte, error) {
	raw, err := json.Marshal(v)
	if err != nil {
		return nil, err
	}
	r, err := http.NewRequest(http.MethodPost, p.url+path, bytes.NewReader(raw))
	if err != nil {
		return nil, err
	}
	r.Header.Set("Content-Type", "application/json")
	r.Header.Set("Sec-Fetch-Site", "same-origin")
	return answered(http.DefaultClient.Do(r))
}

// memory is what the system says of the process's memory, MB.
func (p *process) memory(what string) float64 {
	raw, _ := os.ReadFile(fmt.Sprintf("/proc/%d/status", p.cmd.Process.Pid))
	for _, line := range strings.Split(string(raw), "\n") {
		if v, ok := strings.CutPrefix(line, what+":"); ok {
			kb, _ := strconv.ParseFloat(strings.Fields(v)[0], 64)
			return kb / 1024
		}
	}
	return 0
}

// paths are what of a shop can be asked for.
type paths struct{ later, searches, jobs, machines, holds, comparable, open, live []string }

// look finds some of everything.
func (p *process) look() (paths, error) {
	var s paths
	for _, w := range words {
		s.searches = append(s.searches, "/api/book?q="+url.QueryEscape(w))
	}
	for _, w := range words {
		raw, err := p.get("/api/book?q=" + url.QueryEscape(w))
		if err != nil {
			return s, err
		}
		var v struct {
			Rows []struct {
				ID, Machine string
				State       terms.JobState
			}
			Next string
		}
		if json.Unmarshal(raw, &v) != nil { // of a program before there were pages
			if err := json.Unmarshal(raw, &v.Rows); err != nil {
				return s, err
			}
		}
		if v.Next != "" {
			s.later = append(s.later, "/api/book?next="+v.Next, "/api/book?q="+url.QueryEscape(w)+"&next="+v.Next)
		} else {
			s.later = append(s.later, "/api/book?q="+url.QueryEscape(w))
		}
		for _, row := range v.Rows[:min(len(v.Rows), 10)] {
			if row.State == terms.Open {
				s.open = append(s.open, "/api/jobs/"+row.ID)
				continue
			}
			s.jobs, s.machines = append(s.jobs, "/api/jobs/"+row.ID), append(s.machines, "/api/machine?name="+url.QueryEscape(row.Machine))
		}
	}
	if len(s.open) == 0 {
		s.open = s.jobs
	}
	for _, at := range s.jobs[:min(len(s.jobs), 60)] {
		raw, err := p.get(at)
		if err != nil {
			return s, err
		}
		var v struct{ Holds []struct{ ID string } }
		if err := json.Unmarshal(raw, &v); err != nil {
			return s, err
		}
		for _, h := range v.Holds {
			s.holds = append(s.holds, "/api/holds/"+h.ID)
			s.comparable = append(s.comparable, "/api/holds/"+h.ID+"/comparable")
		}
	}
	raw, err := p.get("/api/bench")
	if err != nil {
		return s, err
	}
	var v struct{ Holds []struct{ ID string } }
	if err := json.Unmarshal(raw, &v); err != nil {
		return s, err
	}
	for _, h := range v.Holds {
		s.live = append(s.live, "/api/holds/"+h.ID)
	}
	if len(s.live) == 0 {
		s.live = s.holds
	}
	return s, nil
}

// job begins a job and abandons it: how long each took, ms.
func (p *process) job(n int) (began, ended float64, err error) {
	write := func(k int) map[string]any {
		return map[string]any{"id": fmt.Sprintf("load-%s-%06d", p.run, 10*n+k), "by": "Ilse", "device": "load"}
	}
	in := write(1)
	in["machine"], in["complaint"], in["mark"] = fmt.Sprintf("Bin carrier %d", 1+n%60), "loses coolant", "110 kPa"
	at := time.Now()
	raw, err := p.post("/api/jobs", in)
	began = ms(at)
	if err != nil {
		return 0, 0, err
	}
	var got struct{ Of string }
	if err := json.Unmarshal(raw, &got); err != nil {
		return 0, 0, err
	}
	end := write(2)
	end["abandon"] = true
	at = time.Now()
	_, err = p.post("/api/jobs/"+got.Of+"/close", end)
	return began, ms(at), err
}
