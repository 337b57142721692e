#include "ring.h"

#include <glib.h>
#include <stdatomic.h>
#include <string.h>

struct rp_ring {
    size_t frame_bytes;
    uint32_t frames;
    atomic_uint written, taken; /* counts that wrap; their difference is what waits */
    unsigned char *bytes;
};

rp_ring *rp_ring_new(size_t frame_bytes, uint32_t frames)
{
    rp_ring *r = g_new0(rp_ring, 1);
    r->frame_bytes = frame_bytes;
    r->frames = 1;
    while (r->frames < frames) {
        r->frames *= 2; /* so that the counts may wrap */
    }
    r->bytes = g_malloc0_n(r->frames, frame_bytes);
    return r;
}

void rp_ring_free(rp_ring *r)
{
    if (r) {
        g_free(r->bytes);
        g_free(r);
    }
}

static rp_frame *place(const rp_ring *r, unsigned count)
{
    return (rp_frame *)(void *)(r->bytes + (size_t)(count % r->frames) * r->frame_bytes);
}

rp_frame *rp_ring_begin(rp_ring *r)
{
    const unsigned written = atomic_load_explicit(&r->written, memory_order_relaxed);
    if (written - atomic_load_explicit(&r->taken, memory_order_acquire) >= r->frames) {
        return NULL;
    }
    rp_frame *frame = place(r, written);
    *frame = (rp_frame){0};
    return frame;
}

void rp_ring_commit(rp_ring *r)
{
    atomic_fetch_add_explicit(&r->written, 1u, memory_order_release);
}

uint32_t rp_ring_waiting(const rp_ring *r)
{
    return atomic_load_explicit(&r->written, memory_order_acquire) -
           atomic_load_explicit(&r->taken, memory_order_acquire);
}

uint32_t rp_ring_room(const rp_ring *r)
{
    return r->frames;
}

const rp_frame *rp_ring_peek(rp_ring *r)
{
    const unsigned taken = atomic_load_explicit(&r->taken, memory_order_relaxed);
    return taken == atomic_load_explicit(&r->written, memory_order_acquire) ? NULL : place(r, taken);
}

void rp_ring_drop(rp_ring *r)
{
    atomic_fetch_add_explicit(&r->taken, 1u, memory_order_release);
}
