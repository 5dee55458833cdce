#version 330 core
// A stroke is a capsule in the picture: two ends in pixels, each with a radius.
uniform vec2 size;
in vec2 corner;
in vec4 ends;
in vec2 radii;
in vec4 paint;
in vec4 style;
out vec2 at;
flat out vec4 line_ends;
flat out vec2 line_radii;
flat out vec4 line_paint;
flat out vec4 line_style;

void main() {
    float r = max(radii.x, radii.y) + 3.0;
    vec2 low = min(ends.xy, ends.zw) - r, high = max(ends.xy, ends.zw) + r;
    at = mix(low, high, corner);
    line_ends = ends;
    line_radii = radii;
    line_paint = paint;
    line_style = style;
    gl_Position = vec4(at / size * 2.0 - 1.0, 0.0, 1.0);
}
