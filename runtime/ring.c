/* The ring of frames: one writer, one reader, two counts that wrap. */
#include "ring.h"

#include <glib.h>
#include <stdatomic.h>
#include <string.h>

struct rgp_ring {
    size_t frame_bytes;
    uint32_t frames;
    atomic_uint written, taken; /* counts that wrap; their difference is what waits */
    unsigned char *bytes;
};

rgp_ring *rgp_ring_new(size_t frame_bytes, uint32_t frames)
{
    rgp_ring *r = g_new0(rgp_ring, 1);
    r->frame_bytes = frame_bytes;
    r->frames = 1;
    while (r->frames < frames) {
        r->frames *= 2; /* so that the counts may wrap */
    }
    r->bytes = g_malloc0_n(r->frames, frame_bytes);
    return r;
}

void rgp_ring_free(rgp_ring *r)
{
    if (r) {
        g_free(r->bytes);
        g_free(r);
    }
}

static rgp_frame *place(const rgp_ring *r, unsigned count)
{
    return (rgp_frame *)(void *)(r->bytes + (size_t)(count % r->frames) * r->frame_bytes);
}

rgp_frame *rgp_ring_begin(rgp_ring *r)
{
    const unsigned written = atomic_load_explicit(&r->written, memory_order_relaxed);
    if (written - atomic_load_explicit(&r->taken, memory_order_acquire) >= r->frames) {
        return NULL;
    }
    rgp_frame *frame = place(r, written);
    *frame = (rgp_frame){0};
    return frame;
}

void rgp_ring_commit(rgp_ring *r)
{
    atomic_fetch_add_explicit(&r->written, 1u, memory_order_release);
}

uint32_t rgp_ring_waiting(const rgp_ring *r)
{
    return atomic_load_explicit(&r->written, memory_order_acquire) -
           atomic_load_explicit(&r->taken, memory_order_acquire);
}

uint32_t rgp_ring_room(const rgp_ring *r)
{
    return r->frames;
}

const rgp_frame *rgp_ring_peek(rgp_ring *r)
{
    const unsigned taken = atomic_load_explicit(&r->taken, memory_order_relaxed);
    return taken == atomic_load_explicit(&r->written, memory_order_acquire) ? NULL : place(r, taken);
}

void rgp_ring_drop(rgp_ring *r)
{
    atomic_fetch_add_explicit(&r->taken, 1u, memory_order_release);
}
