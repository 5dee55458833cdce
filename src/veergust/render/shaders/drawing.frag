#version 330 core
// A drawing as it was made; as a ghost or a shadow in one ink. Its pixels are not mixed with what is nothing.
uniform sampler2D sheet;
uniform vec4 cell;     // texels: low x, low y, high x, high y
uniform float crisp;
uniform float opacity;
uniform vec3 ink;
uniform float flat_ink;
in vec2 at;
out vec4 colour;

vec4 texel(vec2 place) {
    vec2 inside = clamp(place, cell.xy, cell.zw - 1.0);
    vec4 own = texelFetch(sheet, ivec2(inside), 0);
    return vec4(own.rgb * own.a, own.a);
}

void main() {
    vec2 from = floor(at - 0.5), part = fract(at - 0.5);
    // Edges between crisp pixels are as sharp as the picture on the screen can show them.
    if (crisp > 0.5) part = clamp((part - 0.5) / max(fwidth(at), vec2(1e-5)) + 0.5, 0.0, 1.0);
    vec4 own = mix(mix(texel(from), texel(from + vec2(1, 0)), part.x),
                   mix(texel(from + vec2(0, 1)), texel(from + vec2(1, 1)), part.x), part.y);
    if (own.a < 0.004) discard;
    colour = vec4(mix(own.rgb / own.a, ink, flat_ink), own.a * opacity);
}
