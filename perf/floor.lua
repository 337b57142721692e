-- The rig of the benchmark in Lua, as floor.c has it, on readings of the same kind.
-- Usage: lua floor.lua LOOPS        prints nanoseconds a tick, the mean of the fastest twentieth of the rounds
local CHAINS, SETS, SEQUENCES, LOOPS = 8, 4, 2, tonumber(arg[1])
local ROUNDS, TICKS = 200, 1000
local DT, SMOOTH, FUSE, FILTER = 0.02, 0.0951626, 0.00995017, 0.18126925
local min, max, atan = math.min, math.max, math.atan2 or math.atan

local seed = 1
local function chance()
    seed = (seed * 16807) % 2147483647
    return seed
end

local readings = {}
for n = 0, TICKS - 1 do
    local row = {}
    for i = 0, CHAINS - 1 do
        local level = (math.floor(n / (200 + 37 * i)) + i) % 4
        row[i + 1] = 600 + 700 * level + chance() % 25 + (chance() % 100 == 0 and 900 or 0)
    end
    local phase = (n * 3) % 400
    local swing = phase < 200 and phase - 100 or 300 - phase
    row[CHAINS + 1], row[CHAINS + 2], row[CHAINS + 3], row[CHAINS + 4] =
        (phase < 200 and 300 or -300) + chance() % 21 - 10, 20, 8 * swing + chance() % 21 - 10, 900
    readings[n] = row
end

local chain, set, sequence, loop, depth, output = {}, {}, {}, {}, {}, {}
for i = 1, CHAINS do chain[i] = {0, 0, 0, 0, 0, y = 0} end
for i = 1, SETS do set[i] = {band = 1, acts = 0, ready = 0} end
for i = 1, SEQUENCES do sequence[i] = {step = 0, awaited = false, since = 0} end
for i = 1, LOOPS do loop[i] = {i = 0, before = 0, slope = 0} end
local at, angle = 1, 0

local function median(a, b, c, d, e)
    local low, high = max(min(a, b), min(d, e)), min(max(a, b), max(d, e))
    return max(min(low, high), min(max(low, high), c))
end

local function tick(now, raw)
    for i = 1, CHAINS do
        local c = chain[i]
        c[at] = raw[i]
        local m = median(c[1], c[2], c[3], c[4], c[5])
        local d = m < 1890 and (m - 312) * (6 / 1578) or 6 + (m - 1890) * (6 / 1130)
        c.y = c.y + SMOOTH * (min(max(d, 0), 12) - c.y)
        depth[i] = c.y
    end
    at = at == 5 and 1 or at + 1
    for i = 1, SETS do
        local s, d = set[i], depth[i]
        s.band = d < (s.band == 0 and 3.4 or 3) and 0 or d > (s.band == 2 and 8.6 or 9) and 2 or 1
        if s.band == 0 and now >= s.ready then
            s.acts = now + 2000000
            s.ready = s.acts + 3000000
        end
        output[i] = now < s.acts and 80 or 0
    end
    for i = 1, SEQUENCES do
        local s = sequence[i]
        s.awaited = depth[SETS + i] > (s.awaited and 4.6 or 5)
        local over
        if s.step == 0 then
            over = now - s.since >= 1000000
        else
            over = s.awaited or now - s.since >= 3000000
        end
        if over then
            s.step = 1 - s.step
            s.since = now
        end
        output[SETS + i] = s.step == 0 and 30 or 0
    end
    for i = 1, LOOPS do
        local l, measured = loop[i], depth[SETS + SEQUENCES + i]
        local err = 6 - measured
        l.slope = l.slope + FILTER * ((l.before - measured) / DT - l.slope)
        l.before = measured
        local others = 8 * err + l.slope
        local out = min(max(others + l.i + 2 * DT * err, 0), 100)
        l.i = out - others
        output[SETS + SEQUENCES + i] = out
    end
    local lean, turned = math.deg(atan(raw[CHAINS + 3], raw[CHAINS + 4])), angle + raw[CHAINS + 1] * 0.1 * DT
    angle = turned + FUSE * (lean - turned)
end

local ns = {}
for round = 1, ROUNDS do
    local begun = os.clock()
    for n = 0, TICKS - 1 do
        tick(((round - 1) * TICKS + n) * 20000, readings[n])
    end
    ns[round] = (os.clock() - begun) * 1e9 / TICKS
end
table.sort(ns)
local sum = 0
for i = 1, ROUNDS / 20 do sum = sum + ns[i] end
print(string.format("%.0f", sum / (ROUNDS / 20)))
