#version 330 core
in vec4 wash;
out vec4 colour;
void main() { colour = wash; }
