#!/bin/sh
# Render across two network namespaces, over TLS, and compare with one machine: farm-namespaces.sh [BIN_FOLDER]
# Needs root and iproute2. The scheduler and the one who asks are on 10.77.0.1, two workers on 10.77.0.2; what is sent
# between them crosses a network link, and a plain connection there is refused.
set -eu
bin=$(cd "${1:-.venv/bin}" && pwd)
[ "$(id -u)" = 0 ] && command -v ip >/dev/null || { echo "this needs root and iproute2"; exit 2; }
work=$(mktemp -d)
cleanup() {
  for space in quake-a quake-b; do
    ip netns pids $space 2>/dev/null | xargs -r kill 2>/dev/null || true
    ip netns del $space 2>/dev/null || true
  done
  rm -rf "$work"
}
trap cleanup EXIT
cleanup; mkdir -p "$work"

ip netns add quake-a; ip netns add quake-b
ip link add quake-va type veth peer name quake-vb
ip link set quake-va netns quake-a; ip link set quake-vb netns quake-b
for side in a:1 b:2; do
  space=quake-${side%:*}
  ip -n $space addr add 10.77.0.${side#*:}/24 dev quake-v${side%:*}
  ip -n $space link set quake-v${side%:*} up; ip -n $space link set lo up
done

export NIMBLE_QUAKE_HOME="$work/home"
"$bin/nimble-quake" farm-keys "$work/keys" >/dev/null
tls="--protocol tls --tls-ca-file $work/keys/authority.pem --tls-cert $work/keys/certificate.pem --tls-key $work/keys/key.pem"
ip netns exec quake-a "$bin/dask" scheduler --host 10.77.0.1 --port 8786 --no-dashboard --dashboard-address 127.0.0.1:0 $tls >"$work/log" 2>&1 &
sleep 3
for name in one two; do
  ip netns exec quake-b "$bin/dask" worker tls://10.77.0.1:8786 --host 10.77.0.2 --nthreads 1 --name $name --no-nanny \
    --no-dashboard --dashboard-address 127.0.0.1:0 $tls >>"$work/log" 2>&1 &
done
sleep 5
sample=$("$bin/python" -c 'from nimble_quake.samples import sample_path; print(sample_path("lantern-row"))')
ask="ip netns exec quake-a $bin/nimble-quake render $sample --size 25% --frames 0-95"
$ask -o "$work/many.mp4" --on tls://10.77.0.1:8786 --keys "$work/keys"
"$bin/nimble-quake" render "$sample" --size 25% --frames 0-95 -o "$work/one.mp4"
cmp "$work/many.mp4" "$work/one.mp4"
if $ask -o "$work/plain.mp4" --on tcp://10.77.0.1:8786 2>"$work/said"; then echo "a plain connection was let through"; exit 1; fi
grep -q "can be read by all" "$work/said"
echo "Good: across two network namespaces, over TLS, the file is the same, bit for bit; plain is refused."
